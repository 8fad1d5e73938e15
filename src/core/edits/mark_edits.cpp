#include "edits/mark_edits.h"

#include <algorithm>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"
#include "edits/insert_edits.h"

namespace ochron {
namespace {

tl::unexpected<Error> markerGone() { return fail(ErrorKind::notFound, "This marker is not in the song any more."); }
tl::unexpected<Error> spanGone() { return fail(ErrorKind::notFound, "This silent span is not in the song any more."); }

void sortMarks(Song& song) {
  std::stable_sort(song.markers.begin(), song.markers.end(), [](auto& a, auto& b) { return a.at < b.at; });
  std::stable_sort(song.spans.begin(), song.spans.end(),
                   [](auto& a, auto& b) { return a.range.start < b.range.start; });
}

Result<void> mayBe(const Song& song, const MuteSpan& span) {
  if (span.range.empty()) return fail(ErrorKind::refused, "A silent span needs a length. Drag over the lanes.");
  if (span.tracks.empty()) return fail(ErrorKind::refused, "A silent span needs a track to lie on.");
  for (const auto t : span.tracks)
    if (!song.find(t)) return fail(ErrorKind::notFound, "One of these tracks is not in the song any more.");
  return {};
}

}  // namespace

Result<Song> addMarker(const Song& song, Ticks at, Ticks length, const std::string& name) {
  if (length.value < 0) return fail(ErrorKind::badInput, "A section cannot end before it begins.");
  Song next = song;
  const auto id = next.newId<MarkerTag>();
  next.markers.push_back({id, at, length, name, Hold::grid});
  sortMarks(next);
  return next;
}

Result<Song> setMarker(const Song& song, const Marker& marker) {
  if (marker.length.value < 0) return fail(ErrorKind::badInput, "A section cannot end before it begins.");
  Song next = song;
  for (auto& m : next.markers)
    if (m.id == marker.id) {
      m = marker;
      sortMarks(next);
      return next;
    }
  return markerGone();
}

Result<Song> removeMarker(const Song& song, MarkerId marker) {
  Song next = song;
  if (std::erase_if(next.markers, [&](auto& m) { return m.id == marker; }) == 0) return markerGone();
  return next;
}

Result<Song> addSpan(const Song& song, const std::vector<TrackId>& tracks, FrameRange range, const std::string& label) {
  Song next = song;
  MuteSpan span{next.newId<SpanTag>(), range, label, tracks, Hold::clock};
  if (auto ok = mayBe(song, span); !ok) return tl::unexpected(ok.error());
  next.spans.push_back(std::move(span));
  sortMarks(next);
  return next;
}

Result<Song> setSpan(const Song& song, const MuteSpan& span) {
  const auto* old = song.find(span.id);
  if (!old) return spanGone();
  for (const auto* s : {old, &span})
    if (auto ok = mayBe(song, *s); !ok) return tl::unexpected(ok.error());
  Song next = song;
  *std::find_if(next.spans.begin(), next.spans.end(), [&](auto& s) { return s.id == span.id; }) = span;
  sortMarks(next);
  return next;
}

Result<Song> removeSpan(const Song& song, SpanId id) {
  const auto* span = song.find(id);
  if (!span) return spanGone();
  if (auto ok = mayBe(song, *span); !ok) return tl::unexpected(ok.error());
  Song next = song;
  std::erase_if(next.spans, [&](auto& s) { return s.id == id; });
  return next;
}

Result<Song> copySpan(const Song& song, SpanId id, Frames at) {
  const auto* span = song.find(id);
  if (!span) return spanGone();
  auto next = addSpan(song, span->tracks, {at, at + span->range.length()}, span->label);
  if (!next) return next;
  for (auto& s : next->spans)
    if (s.id.value == next->lastId) s.hold = span->hold;
  return next;
}

namespace {
/// Null when nothing moves that control.
const MovedControl* movedControl(const Song& song, const EnvelopeRef& ref) {
  const auto* insert = findInsert(song, ref.insert);
  if (!insert) return nullptr;
  const auto found = insert->moved.find(ref.control);
  return found == insert->moved.end() ? nullptr : &found->second;
}
}  // namespace

const SettingRange& rangeOf(EnvelopeKind kind) {
  switch (kind) {
    case EnvelopeKind::trackPan: return kPanRange;
    case EnvelopeKind::trackMute: return kMuteRange;
    case EnvelopeKind::clipPitch: return kPitchRange;
    case EnvelopeKind::songSpeed: return kSpeedRange;
    default: return kGainEnvelopeRange;
  }
}

const Envelope* envelopeOf(const Song& song, const EnvelopeRef& ref) {
  const auto* track = song.find(ref.track);
  const auto* clip = song.find(ref.clip);
  switch (ref.kind) {
    case EnvelopeKind::trackGain: return track ? &*track->gainEnvelope : nullptr;
    case EnvelopeKind::trackPan: return track ? &*track->panEnvelope : nullptr;
    case EnvelopeKind::trackMute: return track ? &*track->muteEnvelope : nullptr;
    case EnvelopeKind::clipGain: return clip ? &clip->extras->gain : nullptr;
    case EnvelopeKind::clipPitch: return clip ? &clip->extras->pitch : nullptr;
    case EnvelopeKind::songGain: return &*song.gainEnvelope;
    case EnvelopeKind::songSpeed: return &*song.speedEnvelope;
    case EnvelopeKind::effectControl: {
      const auto* moved = movedControl(song, ref);
      return moved ? &moved->points : nullptr;
    }
  }
  return nullptr;
}

EnvelopeScale scaleOf(const Song& song, const EnvelopeRef& ref) {
  if (ref.kind == EnvelopeKind::effectControl) {
    const auto* m = movedControl(song, ref);
    if (!m) return {};
    return {ref.kind, m->name, m->unit, m->range(), m->way, m->way == EnvelopeWay::octaves};
  }
  auto range = rangeOf(ref.kind);
  const std::string unit(range.unit);
  range.name = range.unit = {};
  return {ref.kind,
          std::string(kEnvelopeKindNames[static_cast<std::size_t>(ref.kind)]),
          unit,
          range,
          ref.kind == EnvelopeKind::trackMute ? EnvelopeWay::steps : EnvelopeWay::even,
          ref.kind == EnvelopeKind::songSpeed};
}

Result<Song> setEnvelope(const Song& song, const EnvelopeRef& ref, const Envelope& wanted) {
  const auto scale = scaleOf(song, ref);
  const auto& range = scale.range;
  Envelope envelope;
  for (auto p : wanted) {
    p.value = range.clamp(p.value);
    p.bend = std::clamp(p.bend, -1.0, 1.0);
    envelope = withPoint(std::move(envelope), p);
  }
  if (!envelopeOf(song, ref))
    return fail(ErrorKind::notFound, "What this envelope belongs to is not in the song any more.");
  if (ref.kind == EnvelopeKind::clipGain || ref.kind == EnvelopeKind::clipPitch)
    return changeClips(song, {ref.clip}, [&](Clip& c) {
      changeExtras(c, [&](ClipExtras& x) { (ref.kind == EnvelopeKind::clipGain ? x.gain : x.pitch) = envelope; });
    });
  if (ref.kind == EnvelopeKind::effectControl) {
    auto moved = *movedControl(song, ref);
    moved.points = std::move(envelope);
    return moveControl(song, ref.insert, ref.control, std::move(moved));
  }
  Song next = song;
  if (ref.kind == EnvelopeKind::songGain) {
    next.gainEnvelope = envelope;
    return next;
  }
  if (ref.kind == EnvelopeKind::songSpeed) {
    next.speedEnvelope = envelope;
    return next;
  }
  for (auto& t : next.tracks)
    if (t.id == ref.track)
      (ref.kind == EnvelopeKind::trackGain  ? t.gainEnvelope
       : ref.kind == EnvelopeKind::trackPan ? t.panEnvelope
                                            : t.muteEnvelope) = envelope;
  return next;
}

namespace {
/// The track whose hold counts for an envelope; none: the song's counts.
std::optional<TrackId> holdingTrack(const Song& song, const EnvelopeRef& ref) {
  switch (ref.kind) {
    case EnvelopeKind::songGain:
    case EnvelopeKind::songSpeed: return {};
    case EnvelopeKind::effectControl: {
      const auto place = placeOf(song, ref.insert);
      return place && place->track ? std::optional(place->track) : std::nullopt;
    }
    default: return ref.track;
  }
}
}  // namespace

std::optional<Hold> envelopeHold(const Song& song, const EnvelopeRef& ref) {
  if (ref.kind == EnvelopeKind::clipGain || ref.kind == EnvelopeKind::clipPitch) return {};
  const auto holder = holdingTrack(song, ref);
  if (!holder) return song.envelopeHold;
  const auto* track = song.find(*holder);
  return track ? std::optional(track->envelopeHold) : std::nullopt;
}

Result<Song> holdEnvelopes(const Song& song, const EnvelopeRef& ref, Hold hold) {
  if (!envelopeHold(song, ref))
    return fail(ErrorKind::refused, "A clip's envelope goes with its clip. Choose the clip to say what that keeps to.");
  Song next = song;
  const auto holder = holdingTrack(song, ref);
  if (!holder) next.envelopeHold = hold;
  for (auto& t : next.tracks)
    if (holder && t.id == *holder) t.envelopeHold = hold;
  return next;
}

Result<Song> fadeSong(const Song& song, Frames in, Frames out) {
  Frames first{INT64_MAX / 4};
  for (const auto& s : song.sets)
    if (!s.clips->empty()) first = std::min(first, s.clips->front().start);
  const auto end = song.end();
  if (first >= end) return fail(ErrorKind::refused, "There is nothing to fade: the song is empty.");
  if (in.value < 0 || out.value < 0 || in + out > end - first)
    return fail(ErrorKind::badInput, "The fades are longer than the song.");
  Envelope e = *song.gainEnvelope;
  if (in.value > 0) {
    const double there = valueAt(e, first + in, 0);
    std::erase_if(e, [&](auto& p) { return p.at < first + in; });
    e = withPoint(withPoint(std::move(e), {first, kSilentDb, 0.5}), {first + in, there, 0});
  }
  if (out.value > 0) {
    const double there = valueAt(e, end - out, 0);
    std::erase_if(e, [&](auto& p) { return p.at > end - out; });
    e = withPoint(withPoint(std::move(e), {end - out, there, -0.5}), {end, kSilentDb, 0});
  }
  return setEnvelope(song, {EnvelopeKind::songGain, {}, {}}, e);
}

}  // namespace ochron

#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/document.h"
#include "document/effect_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/arrange.h"
#include "edits/mark_edits.h"

namespace ochron {

void ClipDesk::addSpan() {
  const auto& song = doc_.song();
  const auto range = !chosen().range().empty() ? chosen().range()
                     : !chosen().hasClips()    ? FrameRange{}
                                               : extentOf(song, chosen().clips());
  if (range.empty()) return doc_.tell(tr("Drag over the lanes first: the span lies where the range is."));
  std::vector<TrackId> tracks;
  for (const auto id : chosen().targetSets())
    for (const auto t : song.find(id)->tracks) tracks.push_back(t);
  if (edit(tr("Silence a span"), ochron::addSpan(song, tracks, range, {})))
    for (const auto& s : doc_.song().spans)
      if (!song.find(s.id)) chosen().chooseSpan(s.id);
}

void ClipDesk::addMarker(bool section) {
  const auto& song = doc_.song();
  const auto& map = song.tempo;
  if (section && chosen().range().empty()) return doc_.tell(tr("Choose a range first: the section lies where it is."));
  const auto from = map.toTicks(section ? chosen().range().start : doc_.transport().cursor());
  const auto length = section ? map.toTicks(chosen().range().end) - from : Ticks{};
  const auto name = section ? tr("Section %1") : tr("Marker %1");
  if (edit(section ? tr("Add a section") : tr("Add a marker"),
           ochron::addMarker(song, from, length, name.arg(song.markers.size() + 1).toStdString())))
    for (const auto& m : doc_.song().markers)
      if (!song.find(m.id)) chosen().chooseMarker(m.id);
}

void ClipDesk::fadeSong(bool in, bool out) {
  const Frames length{std::llround(settings_.songFadeSeconds * doc_.song().rate)};
  edit(in && out ? tr("Fade the song in and out")
       : in      ? tr("Fade the song in")
                 : tr("Fade the song out"),
       ochron::fadeSong(doc_.song(), in ? length : Frames{}, out ? length : Frames{}));
}

/// The envelope of the shown kind that the active track or a chosen clip has.
std::optional<EnvelopeRef> ClipDesk::envelopeInHand() const {
  if (const auto point = chosen().point()) return point->envelope;
  if (doc_.step() == Step::print) return doc_.effectDesk().shownControl();
  if (!shownEnvelope_) return {};
  EnvelopeRef ref{*shownEnvelope_, chosen().track(), {}};
  if (const auto* set = doc_.song().find(chosen().set()); set && !ref.track) ref.track = set->tracks.front();
  if (chosen().hasClips()) ref.clip = chosen().clips().front();
  return envelopeOf(doc_.song(), ref) ? std::optional(ref) : std::nullopt;
}

void ClipDesk::copyEnvelope() {
  const auto ref = envelopeInHand();
  if (!ref || chosen().range().empty())
    return doc_.tell(tr("Show an envelope, choose its track or clip, and drag over the stretch to copy."));
  auto range = chosen().range();
  if (const auto* c = doc_.song().find(ref->clip);
      c && (ref->kind == EnvelopeKind::clipGain || ref->kind == EnvelopeKind::clipPitch))
    range = {c->toTake(range.start), c->toTake(range.end)};
  const auto scale = scaleOf(doc_.song(), *ref);
  copiedEnvelope_ = {piece(*envelopeOf(doc_.song(), *ref), range, scale.range.fallback), range.length(), scale.unit};
  doc_.tell(
      tr("%1 s of the envelope copied.").arg(static_cast<double>(range.length().value) / doc_.song().rate, 0, 'f', 2));
  emit changed();
}

void ClipDesk::pasteEnvelope() {
  const auto ref = envelopeInHand();
  if (!ref || !copiedEnvelope_) return doc_.tell(tr("Show an envelope and choose its track or clip to paste into."));
  const auto scale = scaleOf(doc_.song(), *ref);
  if (scale.unit != copiedEnvelope_->unit)
    return doc_.tell(tr("The copied envelope is in %1, this one in %2.")
                         .arg(QString::fromStdString(copiedEnvelope_->unit), QString::fromStdString(scale.unit)));
  auto at = doc_.transport().cursor();
  if (const auto* c = doc_.song().find(ref->clip);
      c && (ref->kind == EnvelopeKind::clipGain || ref->kind == EnvelopeKind::clipPitch))
    at = c->toTake(at);
  edit(tr("Paste an envelope piece"), setEnvelope(doc_.song(), *ref,
                                                  withPiece(*envelopeOf(doc_.song(), *ref), copiedEnvelope_->points, at,
                                                            copiedEnvelope_->length, scale.range.fallback)));
}

// Jumps ---------------------------------------------------------------------------------------------------------------

Frames ClipDesk::placeAfter(Stop to, Frames from, int by) const {
  const auto& song = doc_.song();
  const auto& map = song.tempo;
  if (to == Stop::bar) {
    const int now = map.barAt(from);
    const bool onIt = map.toFrames(map.barStart(now)) == from;
    return map.toFrames(map.barStart(by < 0 && !onIt ? now : now + by));
  }
  std::vector<Frames> places;
  if (to == Stop::marker)
    for (const auto& m : song.markers) {
      places.push_back(map.toFrames(m.at));
      if (m.length.value > 0) places.push_back(map.toFrames(m.end()));
    }
  if (to == Stop::edge)
    for (const auto id : chosen().targetSets())
      for (const auto& c : *song.find(id)->clips) {
        places.push_back(c.start);
        places.push_back(c.end());
      }
  if (to == Stop::hit)
    for (const auto& h : doc_.timingDesk().planned().hits)
      places.push_back(doc_.transport().original() ? h.home : h.now);
  std::optional<Frames> best;
  for (const auto p : places)
    if (by > 0 ? p > from && (!best || p < *best) : p < from && (!best || p > *best)) best = p;
  return best.value_or(from);
}

void ClipDesk::jump(Stop to, int by, bool extend) {
  const auto from = doc_.transport().cursor();
  const auto at = placeAfter(to, from, by);
  if (at == from)
    return doc_.tell(to == Stop::marker && doc_.song().markers.empty()
                         ? tr("There is no marker yet. W puts one at the play line.")
                         : tr("There is nothing further in this direction."));
  if (extend) {
    // The range runs from where extending began to the play line.
    const auto range = chosen().range();
    if (!extendAnchor_ || range.empty() || (from != range.start && from != range.end) ||
        (*extendAnchor_ != range.start && *extendAnchor_ != range.end))
      extendAnchor_ = range.empty() ? from : from == range.start ? range.end : from == range.end ? range.start : from;
    chosen().setRange({std::min(*extendAnchor_, at), std::max(*extendAnchor_, at)});
  } else {
    extendAnchor_.reset();
  }
  doc_.transport().setCursor(at);
}

}  // namespace ochron

#include "render/plan.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "dsp/fade.h"

namespace ochron {
namespace {

struct Source {
  MediaId id;
  std::shared_ptr<const DecodedMedia> media;
  Frames offset;
};

/// Reach of a clip including its crossfades.
struct Reach {
  Frames start;
  Frames end;
  Ramp in;
  Ramp out;
};

bool joined(const Clip& a, const Clip& b) {
  return a.end() == b.start && !a.muted && !b.muted && (b.seam.before.value > 0 || b.seam.after.value > 0);
}

Ramp crossfadeRamp(const Seam& seam, double likeness) {
  return {Ramp::Kind::crossfade, seam.before + seam.after, seam.shape, seam.bias, seam.law, likeness};
}

Seam fitted(const Clip& a, const Clip& b) {
  Seam s = b.seam;
  s.before = std::min(s.before, a.length);
  s.after = std::min(s.after, b.length);
  return s;
}

/// Where a clip's samples are, and song time minus the time of their first frame. Null when they are not at hand.
struct Sound {
  const DecodedMedia* media = nullptr;
  Frames toSong;
};

Sound soundOf(const Clip& c, const std::map<TakeId, Source>& sources, const StretchedSounds& stretched) {
  const auto source = sources.find(c.take);
  if (source == sources.end()) return {};
  if (c.pins->size() < 2) return {source->second.media.get(), c.shift() + source->second.offset};
  const auto made = stretched.find(c.id);
  if (made == stretched.end()) return {};
  const auto media = made->second.media.find(source->second.id);
  if (media == made->second.media.end()) return {};
  return {media->second.get(), c.pins->front().song};
}

double likenessAt(const Clip& a, const Clip& b, const Seam& s, const std::map<TakeId, Source>& sources,
                  const StretchedSounds& stretched, int channel) {
  if (s.law != CrossfadeLaw::matched) return 0;
  if (a.take == b.take && a.shift() == b.shift() && a.pins->empty() && b.pins->empty()) return 1;
  const auto from = b.start - s.before;
  const auto length = s.before + s.after;
  const auto side = [&](const Clip& c) -> std::span<const float> {
    const auto [media, toSong] = soundOf(c, sources, stretched);
    const auto first = (from - toSong).value;
    if (!media || first < 0 || first + length.value > media->length().value) return {};
    return media->channel(std::min(channel, media->channels() - 1))
        .subspan(static_cast<std::size_t>(first), static_cast<std::size_t>(length.value));
  };
  const auto x = side(a);
  const auto y = side(b);
  return x.empty() || y.empty() ? 0 : crossfadeLikeness(x, y, s.shape, s.bias);
}

SegmentList compileChannel(const ClipList& clips, const std::map<TakeId, Source>& sources,
                           const StretchedSounds& stretched, int channel) {
  SegmentList out;
  out.reserve(clips.size());
  std::vector<Reach> reach(clips.size());
  for (std::size_t i = 0; i < clips.size(); ++i) {
    const auto& c = clips[i];
    reach[i].start = c.start, reach[i].end = c.end();
    if (c.fadeIn.length.value > 0)
      reach[i].in = {Ramp::Kind::fade, c.fadeIn.length, c.fadeIn.shape, c.fadeIn.bend, {}, 0};
    if (c.fadeOut.length.value > 0)
      reach[i].out = {Ramp::Kind::fade, c.fadeOut.length, c.fadeOut.shape, c.fadeOut.bend, {}, 0};
    if (i == 0 || !joined(clips[i - 1], c) || !sources.contains(c.take) || !sources.contains(clips[i - 1].take))
      continue;
    const auto seam = fitted(clips[i - 1], c);
    const auto ramp = crossfadeRamp(seam, likenessAt(clips[i - 1], c, seam, sources, stretched, channel));
    reach[i].start = c.start - seam.before, reach[i].in = ramp;
    reach[i - 1].end = c.start + seam.after, reach[i - 1].out = ramp;
  }
  for (std::size_t i = 0; i < clips.size(); ++i) {
    const auto& c = clips[i];
    const auto [media, toSong] = soundOf(c, sources, stretched);
    if (c.muted || !media) continue;
    // Beyond the recording there is silence.
    const auto start = std::max(reach[i].start, toSong);
    const auto end = std::min(reach[i].end, toSong + media->length());
    if (end <= start) continue;
    Segment s;
    s.samples = media->channel(std::min(channel, media->channels() - 1)).data() + (start - toSong).value;
    s.start = start, s.length = end - start;
    s.gain = c.gainDb == 0 ? 1.0f : static_cast<float>(std::pow(10.0, c.gainDb / 20.0));
    s.in = reach[i].in, s.out = reach[i].out;
    s.rampStart = reach[i].start, s.rampEnd = reach[i].end;
    out.push_back(s);
  }
  return out;
}

std::map<TakeId, Source> sourcesOf(const Song& song, TrackId track, const MediaPool& pool) {
  std::map<TakeId, Source> out;
  for (const auto& take : song.takes)
    for (const auto& mic : take.mics)
      if (mic.track == track)
        if (auto found = pool.find(mic.media); found != pool.end())
          out[take.id] = {mic.media, found->second, mic.offset};
  return out;
}

}  // namespace

RenderPlan compilePlan(const Song& song, const MediaPool& pool, const RenderPlan* previous,
                       const StretchedSounds& stretched) {
  RenderPlan plan;
  plan.rate = song.rate;
  plan.end = song.end();
  const bool anySolo = std::any_of(song.tracks.begin(), song.tracks.end(), [](auto& t) { return t.solo; });
  for (const auto& track : song.tracks) {
    const auto* set = song.setOf(track.id);
    if (!set) continue;
    TrackPlan t;
    t.track = track.id;
    t.audible = !track.muted && (!anySolo || track.solo);
    const double gain = track.gainDb == 0 ? 1.0 : std::pow(10.0, track.gainDb / 20.0);
    t.left = static_cast<float>(gain * (track.pan > 0 ? 1.0 - track.pan / 100.0 : 1.0));
    t.right = static_cast<float>(gain * (track.pan < 0 ? 1.0 + track.pan / 100.0 : 1.0));
    t.clips = set->clips;
    const auto sources = sourcesOf(song, track.id, pool);
    int channels = 1;
    for (const auto& [take, source] : sources)
      t.media.push_back(source.media), channels = std::max(channels, std::min(2, source.media->channels()));
    for (const auto& c : *set->clips)
      if (const auto made = stretched.find(c.id); made != stretched.end() && c.pins->size() >= 2)
        for (const auto& [media, sound] : made->second.media) t.media.push_back(sound);
    const TrackPlan* old = nullptr;
    if (previous)
      for (const auto& o : previous->tracks)
        if (o.track == track.id && o.clips.sameObject(t.clips) && o.media == t.media) old = &o;
    for (int c = 0; c < channels; ++c)
      t.channels.push_back(
          old ? old->channels[static_cast<std::size_t>(c)]
              : std::make_shared<const SegmentList>(compileChannel(*set->clips, sources, stretched, c)));
    plan.tracks.push_back(std::move(t));
  }
  return plan;
}

}  // namespace ochron

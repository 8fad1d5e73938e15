#include "render/render_plan.h"

#include <algorithm>
#include <cmath>

#include "base/all_cores.h"
#include "render/layer_segments.h"
#include "render/racks.h"
#include "render/segments.h"

namespace ochron {
namespace {

double panned(double pan, bool left) { return left ? (pan > 0 ? 1 - pan / 100 : 1) : (pan < 0 ? 1 + pan / 100 : 1); }

/// The mixer's part of a track.
void mixInto(TrackPlan& t, const Song& song, const Track& track, bool anySolo) {
  t.audible = !track.muted && (!anySolo || track.solo);
  const double gain = track.gainDb == 0 ? 1.0 : std::pow(10.0, track.gainDb / 20.0);
  t.gain = product(gateOf(song, track), decibelCurve(*track.gainEnvelope));
  const auto& pan = *track.panEnvelope;
  if (pan.empty()) {
    t.left = static_cast<float>(gain * panned(track.pan, true));
    t.right = static_cast<float>(gain * panned(track.pan, false));
    return;
  }
  t.left = t.right = static_cast<float>(gain);
  std::vector<Frames> knots;
  knots.reserve(pan.size());
  for (const auto& p : pan) knots.push_back(p.at);
  const auto side = [&](bool left) {
    return baked(knots, [&](Frames f) { return panned(kPanRange.clamp(track.pan + valueAt(pan, f, 0)), left); });
  };
  t.panLeft = side(true);
  t.panRight = side(false);
}

/// The track's channels as they were compiled before; null when something that goes into them has changed.
const TrackPlan* unchanged(const TrackPlan& t, const RenderPlan* previous) {
  // A bundle's fades hang on all its clips, on whatever track: such tracks are compiled anew.
  if (!previous || !t.bundles.empty()) return nullptr;
  for (const auto& o : previous->tracks)
    if (o.track == t.track && o.bundles.empty() && o.clips.sameObject(t.clips) && o.media == t.media &&
        o.strokes == t.strokes && o.layer == t.layer && o.sounds == t.sounds)
      return &o;
  return nullptr;
}

TrackPlan compileTrack(const Song& song, const Track& track, const MicSet& set, const MediaPool& pool,
                       const PlanParts& parts, const RenderPlan* previous) {
  const bool anySolo = std::any_of(song.tracks.begin(), song.tracks.end(), [](auto& t) { return t.solo; });
  TrackPlan t;
  t.track = track.id;
  t.set = set.id;
  mixInto(t, song, track, anySolo);
  t.clips = set.clips;
  const ClipSources sources(song, set, track.id, pool);
  t.media = sources.all();
  bool anyPan = false;
  for (const auto& c : *set.clips) {
    anyPan = anyPan || c.pan != 0;
    if (const auto sound = parts.made.find(c.id); sound != parts.made.end())
      for (const auto& part : sound->second.parts) t.media.push_back(part.sound);
    if (c.bundle)
      if (const auto* b = song.find(c.bundle); b && (t.bundles.empty() || t.bundles.back() != *b))
        t.bundles.push_back(*b);
  }
  if (const auto* old = unchanged(t, previous)) {
    t.channels = old->channels;
    return t;
  }
  int channels = anyPan ? 2 : 1;
  for (const auto& m : sources.all()) channels = std::max(channels, std::min(2, m->channels()));
  for (int c = 0; c < channels; ++c)
    t.channels.push_back(std::make_shared<const SegmentList>(compileChannel(song, *set.clips, sources, parts, c,
                                                                            channels == 1 ? Side::both
                                                                            : c == 0      ? Side::left
                                                                                          : Side::right)));
  return t;
}

/// A layer's sounds as they were made before; null when they sound otherwise now.
std::shared_ptr<const std::vector<PlayedSound>> playedBefore(const TrackPlan& t, const RenderPlan* previous) {
  if (!previous) return nullptr;
  for (const auto& o : previous->tracks)
    if (o.track == t.track && o.media == t.media && o.sounds == t.sounds && makeTheSameSounds(o.layer, t.layer))
      return o.played;
  return nullptr;
}

TrackPlan compileLayer(const Song& song, const Track& track, const Layer& layer, const MediaPool& pool,
                       const RenderPlan* previous) {
  const bool anySolo = std::any_of(song.tracks.begin(), song.tracks.end(), [](auto& t) { return t.solo; });
  TrackPlan t;
  t.track = track.id;
  if (const auto* set = song.setOf(track.id)) t.set = set->id;
  mixInto(t, song, track, anySolo);
  t.media = mediaOf(layer, pool);
  if (layer.on) t.strokes = strokesOf(song, layer);
  t.layer = layer.settings;
  t.sounds = layer.sounds;
  if (const auto* old = unchanged(t, previous)) {
    t.played = old->played;
    t.channels = old->channels;
    return t;
  }
  t.played = playedBefore(t, previous);
  if (!t.played) t.played = std::make_shared<const std::vector<PlayedSound>>(playedSounds(layer, pool));
  t.channels = layerSegments(song, layer, t.strokes, *t.played);
  return t;
}

}  // namespace

void useRacks(RenderPlan& plan, std::shared_ptr<Racks> racks) {
  plan.racked.reset();
  plan.racks = std::move(racks);
  if (!plan.racks) return;
  for (std::size_t t = 0; t < std::min(plan.tracks.size(), plan.racked.size()); ++t)
    plan.racked[t] = std::any_of(plan.racks->tracks.begin(), plan.racks->tracks.end(),
                                 [&](const TrackRack& r) { return r.track == plan.tracks[t].track; });
}

RenderPlan compilePlan(const Song& song, const MediaPool& pool, const RenderPlan* previous, const MadeStore* store) {
  RenderPlan plan;
  const PlanParts parts(song, pool, store);
  plan.preview = anyMissing(parts.made);
  plan.rate = song.rate;
  plan.end = song.end();
  plan.gain = decibelCurve(*song.gainEnvelope);
  plan.speed = song.speedEnvelope;
  plan.manner = song.speedManner;
  std::vector<std::pair<const Track*, const MicSet*>> heard;
  for (const auto& track : song.tracks)
    if (const auto* set = song.setOf(track.id)) heard.emplace_back(&track, set);
  plan.tracks.resize(heard.size());
  Progress progress;
  onAllCores(heard.size(), progress, [&](std::size_t i, Progress&) {
    if (const auto* layer = song.layerOn(heard[i].first->id))
      plan.tracks[i] = compileLayer(song, *heard[i].first, *layer, pool, previous);
    else
      plan.tracks[i] = compileTrack(song, *heard[i].first, *heard[i].second, pool, parts, previous);
  });
  return plan;
}

std::optional<double> likenessOf(const RenderPlan& plan, TrackId track, Frames from) {
  const auto t =
      std::find_if(plan.tracks.begin(), plan.tracks.end(), [&](const TrackPlan& p) { return p.track == track; });
  if (t == plan.tracks.end() || t->channels.empty()) return {};
  const auto& segments = t->channels.front()->segments;
  auto s =
      std::lower_bound(segments.begin(), segments.end(), from, [](const Segment& x, Frames f) { return x.start < f; });
  for (; s != segments.end() && s->rampStart <= from; ++s)
    if (s->rampStart == from && s->in.kind == Ramp::Kind::crossfade) return s->in.likeness;
  return {};
}

}  // namespace ochron

#include "song/layer_strokes.h"

#include <algorithm>
#include <cmath>

#include "terms/general_midi.h"

namespace ochron {
namespace {

constexpr double kSoftest = 0.01;  // of a strength, to be told in dB

/// How far a strength lies outside of what a sound is for.
double outside(const KitSound& s, double strength) { return std::max({0.0, s.low - strength, strength - s.high}); }

/// Spreads names evenly, the same at every run (SplitMix64: Steele, Lea and Flood 2014).
std::uint64_t mixed(std::uint64_t x) {
  x += 0x9e3779b97f4a7c15U;
  x = (x ^ (x >> 30)) * 0xbf58476d1ce4e5b9U;
  x = (x ^ (x >> 27)) * 0x94d049bb133111ebU;
  return x ^ (x >> 31);
}

/// The sound for a stroke: of those for its strength one that is not the one before.
std::size_t soundFor(const std::vector<KitSound>& sounds, HitId hit, double strength, std::size_t before) {
  double least = outside(sounds.front(), strength);
  for (const auto& s : sounds) least = std::min(least, outside(s, strength));
  std::vector<std::size_t> fit;
  for (std::size_t i = 0; i < sounds.size(); ++i)
    if (outside(sounds[i], strength) <= least) fit.push_back(i);
  const auto chosen = static_cast<std::size_t>(mixed(hit.value) % fit.size());
  return fit[chosen] == before && fit.size() > 1 ? fit[(chosen + 1) % fit.size()] : fit[chosen];
}

bool silent(const Song& song, const MicSet& set, Frames at) {
  return std::any_of(song.spans.begin(), song.spans.end(), [&](const MuteSpan& s) {
    return s.range.contains(at) && std::all_of(set.tracks.begin(), set.tracks.end(), [&](TrackId t) {
             return std::find(s.tracks.begin(), s.tracks.end(), t) != s.tracks.end();
           });
  });
}

}  // namespace

double strengthDb(double strength) { return 20 * std::log10(std::max(strength, kSoftest)); }

double curveDb(const Layer& layer, double strength) {
  const auto& points = layer.curve;
  if (points.empty()) return strengthDb(strength);
  const auto after = std::upper_bound(points.begin(), points.end(), strength,
                                      [](double s, const CurvePoint& p) { return s < p.strength; });
  if (after == points.begin()) return after->db;
  const auto& a = *(after - 1);
  if (after == points.end()) return a.db;
  return a.db + (after->db - a.db) * (strength - a.strength) / (after->strength - a.strength);
}

bool isHeard(const Layer& layer, HitId hit, double strength) {
  const auto wish = layer.wishes.find(hit);
  const auto decided = wish == layer.wishes.end() ? std::nullopt : wish->second.heard;
  return decided.value_or(strength >= layer.settings.threshold);
}

const StrokeAttack* knownAttack(const Layer& layer, TakeId take, Frames stroke) {
  const auto known = layer.heard->takes.find(take);
  if (known == layer.heard->takes.end()) return nullptr;
  const auto at = std::lower_bound(known->second.begin(), known->second.end(), stroke,
                                   [](const StrokeAttack& a, Frames f) { return a.stroke < f; });
  return at != known->second.end() && at->stroke == stroke ? &*at : nullptr;
}

Frames attackOf(const Layer& layer, TakeId take, Frames stroke) {
  const auto* known = layer.lineUp == LineUp::whole ? nullptr : knownAttack(layer, take, stroke);
  return known ? known->at : stroke;
}

std::vector<TakeStroke> takeStrokes(const Song& song, const Layer& layer, TakeId take, FrameRange within) {
  std::vector<TakeStroke> out;
  const auto* set = song.find(layer.set);
  if (!set) return out;
  for (const auto& h : activeHits(*song.hitsOf(take, layer.set), set->hits, song.rate, within))
    for (const auto& s : strokesOf(h)) {
      if (layer.drum && s.drum != *layer.drum) continue;
      out.push_back({h.id, s.at, s.strength, h.origin == HitOrigin::user});
    }
  // A hit's later strokes may lie behind the next hit's first.
  std::stable_sort(out.begin(), out.end(), [](const TakeStroke& a, const TakeStroke& b) { return a.at < b.at; });
  return out;
}

std::vector<LayerStroke> strokesOf(const Song& song, const Layer& layer) {
  std::vector<LayerStroke> out;
  const auto* set = song.find(layer.set);
  const auto& sounds = layer.sounds->sounds;
  if (!set || sounds.empty()) return out;
  auto before = sounds.size();
  for (const auto& clip : *set->clips) {
    if (clip.muted || clip.reversed) continue;
    for (const auto& s : takeStrokes(song, layer, clip.take, clip.played())) {
      LayerStroke stroke{s.hit, clip.take, attackOf(layer, clip.take, s.at), {}, s.strength};
      stroke.at = clip.toSong(stroke.inTake);
      if (silent(song, *set, stroke.at)) continue;
      const auto wish = layer.wishes.find(s.hit);
      const StrokeWish decided = wish == layer.wishes.end() ? StrokeWish{} : wish->second;
      stroke.byHand = decided != StrokeWish{};
      stroke.sound = decided.sound && *decided.sound < sounds.size() ? *decided.sound
                                                                     : soundFor(sounds, s.hit, s.strength, before);
      before = stroke.sound;
      const auto& sound = sounds[stroke.sound];
      stroke.turned = layer.turned.value_or(sound.turned);
      stroke.gainDb = layer.settings.gainDb + layer.settings.follow / 100 * curveDb(layer, s.strength) + sound.gainDb +
                      layer.sounds->fullDb - sound.peakDb + decided.gainDb;
      stroke.heard = isHeard(layer, s.hit, s.strength);
      out.push_back(stroke);
    }
  }
  std::stable_sort(out.begin(), out.end(), [](const LayerStroke& a, const LayerStroke& b) { return a.at < b.at; });
  return out;
}

std::vector<LayerNote> layerNotes(const Song& song) {
  std::vector<LayerNote> out;
  for (const auto& layer : song.layers) {
    if (!layer.midi) continue;
    const int key = keyOfDrum(layer.drum.value_or(DrumClass::other));
    for (const auto& s : strokesOf(song, layer))
      if (s.heard) out.push_back({s.at, key, s.strength});
  }
  std::stable_sort(out.begin(), out.end(), [](const LayerNote& a, const LayerNote& b) { return a.at < b.at; });
  return out;
}

}  // namespace ochron

#pragma once

#include <cmath>
#include <random>
#include <vector>

#include "feel/plan_timing.h"
#include "support/song_maker.h"

namespace ochron::test {

/// A stroke every 40 ms: a click that dies away over hiss, one louder than the other.
inline std::vector<float> denseStrokes(int strokes) {
  constexpr int kApart = 1'920;
  std::vector<float> out(static_cast<std::size_t>(kApart * (strokes + 2)));
  std::mt19937 dice(3);
  std::normal_distribution<float> hiss(0, 0.002F);
  for (auto& s : out) s = hiss(dice);
  for (int i = 1; i <= strokes; ++i)
    for (int k = 0; k < kApart; ++k)
      out[static_cast<std::size_t>(i * kApart + i % 7 * 60 + k)] +=
          (i % 2 ? 0.3F : 0.5F) * std::exp(-static_cast<float>(k) / 500) * std::sin(0.2F * static_cast<float>(k));
  return out;
}

inline HitList denseHits(int strokes) {
  HitList hits;
  for (int i = 1; i <= strokes; ++i) {
    Hit h;
    h.at = Frames{i * 1'920 + i % 7 * 60};
    h.drum = i % 2 ? DrumClass::kick : DrumClass::snare;
    h.strength = i % 2 ? 0.6 : 0.9;
    h.confidence = 1;
    hits.push_back(h);
  }
  return hits;
}

/// A kit of many mics with hits so dense that listening for the joints of its plan is left to the background.
inline MadeSong manyMics(int mics, int strokes) {
  return songOf(*TempoMap::steady(48'000, 93.75),
                std::vector<std::vector<float>>(static_cast<std::size_t>(mics), denseStrokes(strokes)),
                denseHits(strokes));
}

}  // namespace ochron::test

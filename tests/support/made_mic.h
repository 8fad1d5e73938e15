#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <random>
#include <vector>

#include "analysis/drums/onsets.h"
#include "support/units.h"

namespace ochron::test {

/// What one mic recorded: drums laid on exact frames over noise.
struct Take {
  explicit Take(double seconds, double noiseDb = -80) : samples(static_cast<std::size_t>(seconds * kRate)), dice(7) {
    std::normal_distribution<float> hiss(0, static_cast<float>(std::pow(10, noiseDb / 20)));
    for (auto& s : samples) s = hiss(dice);
  }
  /// A drum: a tone that rings for `ms` and a burst of noise of `noise` share.
  void hit(std::int64_t at, double hz, double ms, double noise, double level) {
    std::normal_distribution<float> hiss(0, 0.4F);
    for (std::int64_t i = 0; i < kRate && at + i < std::ssize(samples); ++i) {
      const double t = static_cast<double>(i) / kRate;
      const double tone = std::exp(-t * 1000 / ms * 2.3) * std::sin(2 * M_PI * hz * t + 0.6);
      const double burst = noise * std::exp(-t * 1000 / 25) * hiss(dice);
      samples[static_cast<std::size_t>(at + i)] += static_cast<float>(level * ((1 - noise) * tone + burst));
    }
  }
  void kick(std::int64_t at, double level = 0.8) { hit(at, 55, 120, 0.25, level); }
  void snare(std::int64_t at, double level = 0.8) { hit(at, 190, 70, 0.7, level); }
  void tom(std::int64_t at, double level = 0.8) { hit(at, 110, 500, 0.1, level); }
  std::vector<float> samples;
  std::mt19937 dice;
};

/// The hits that count at the default sensitivity.
inline std::vector<Onset> counting(const std::vector<GuideSignal>& signals) {
  Progress progress;
  std::vector<Onset> out;
  const auto all = detectOnsets(signals, kRate, progress);
  for (const auto& o : *all)
    if (std::any_of(o.guides.begin(), o.guides.end(), [](auto& g) { return g.claim >= 0.05; })) out.push_back(o);
  return out;
}

}  // namespace ochron::test

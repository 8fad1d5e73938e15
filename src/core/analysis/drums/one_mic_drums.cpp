#include "analysis/drums/one_mic_drums.h"

#include <algorithm>
#include <cmath>

#include "analysis/drums/one_mic_weights.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr std::int64_t kAMs = static_cast<std::int64_t>(BandEnergy::kStepsPerMs);
constexpr std::int64_t kBodySteps = 60 * kAMs;
constexpr std::int64_t kBeforeFrom = 11 * kAMs;
constexpr std::int64_t kBeforeTo = 1 * kAMs;
constexpr std::int64_t kEarlySteps = 20 * kAMs;
constexpr std::int64_t kRingSteps = 120 * kAMs;
constexpr double kLeastRing = -30;  // dB
constexpr double kMostRing = 15;
constexpr double kSurelyTom = 1.5;   // log odds: loops have more snares than toms
constexpr double kLeastLoud = -30;   // dB: what lies deeper tells no more
constexpr double kLeastOfAll = -35;  // dB
constexpr double kLeastPowerOfBand = 1e-14;
constexpr double kSureNamed = 0.2;  // of a guess

double weigh(const OneMicClues& clues, const OneMicClues& weights, double offset) {
  double out = offset;
  for (std::size_t b = 0; b < BandEnergy::kBands; ++b)
    out += clues.loud[b] * weights.loud[b] + clues.share[b] * weights.share[b] + clues.ring[b] * weights.ring[b];
  return out;
}

}  // namespace

OneMicClues oneMicClues(const BandEnergy& energy, std::int64_t at) {
  const auto s = energy.stepOf(at);
  OneMicClues out;
  std::array<double, BandEnergy::kBands> added{};
  double all = 0;
  for (std::size_t b = 0; b < added.size(); ++b) {
    const double before = energy.mean(b, s - kBeforeFrom, s - kBeforeTo);
    const auto more = [&](std::int64_t from, std::int64_t to) {
      return std::max(energy.mean(b, s + from, s + to) - before, 0.0) + energy.floor(b);
    };
    added[b] = more(0, kBodySteps);
    all += added[b];
    const double ring =
        decibelsOf((more(kBodySteps, kRingSteps) + kLeastPowerOfBand) / (more(0, kEarlySteps) + kLeastPowerOfBand));
    out.ring[b] = std::clamp(ring, kLeastRing, kMostRing);
  }
  for (std::size_t b = 0; b < added.size(); ++b) {
    out.loud[b] = std::max(decibelsOf(added[b] / (energy.loud(b) + kLeastPowerOfBand)), kLeastLoud);
    out.share[b] = std::max(decibelsOf(added[b] / all), kLeastOfAll);
  }
  return out;
}

OneMicOdds oneMicOdds(const OneMicClues& clues) {
  return {weigh(clues, kKickWeights, kKickOffset), weigh(clues, kSnareWeights, kSnareOffset),
          weigh(clues, kTomWeights, kTomOffset)};
}

std::array<double, 5> namedOnOneMic(const BandEnergy& energy, std::int64_t at, std::array<double, 5> guessed) {
  const auto odds = oneMicOdds(oneMicClues(energy, at));
  std::array<double, 5> out{};
  if (std::max(odds.kick, odds.snare) > 0) {
    out[odds.kick >= odds.snare ? 0 : odds.tomForSnare > kSurelyTom ? 2 : 1] = 1;
    return out;
  }
  for (std::size_t d = 2; d < out.size(); ++d) out[d] = guessed[d] >= kSureNamed ? guessed[d] : 0;
  return out;
}

}  // namespace ochron

#include "analysis/hits/mix_strokes.h"

#include <algorithm>
#include <cmath>

#include "analysis/levels/band_rises.h"
#include "analysis/levels/localise.h"
#include "base/numbers.h"
#include "base/units.h"

namespace ochron {
namespace {

// All found on four songs, six mixes with truth, kits and lines (docs/figures.md).
constexpr std::size_t kTopBand = BandEnergy::kBands - 1;
constexpr std::size_t kFewAttacks = 8;
constexpr double kMostLeft = 0.45;
constexpr double kLeastAddedDb = -12;  // by a stroke of drums that are played with it; less is bleed
constexpr double kLevelMs = 12;
constexpr double kWithinMs = 15;
constexpr double kLaterFromMs = 120;
constexpr double kLaterToMs = 200;

constexpr double kCountsDb = 3.5;
constexpr double kSureDb = 15;  // more is sureness 1
constexpr double kOneStroke = 0.025;

constexpr double kPlaceBeforeMs = 15;
constexpr double kPlaceAfterMs = 8;
constexpr double kRiseBeforeMs = 10;
constexpr double kRiseAfterMs = 5;
constexpr double kPlaceFloor = 1e-4;  // of a band's loud power

constexpr std::int64_t stepsOf(double ms) { return static_cast<std::int64_t>(ms * BandEnergy::kStepsPerMs); }

}  // namespace

std::int64_t placeByBands(const BandEnergy& energy, std::int64_t near) {
  double most = -1;
  auto place = near;
  for (std::size_t b = 1; b < BandEnergy::kBands; ++b) {
    const double wide = std::pow(BandEnergy::kEdgesHz[b + 1] - BandEnergy::kEdgesHz[b], 0.25);
    const double floor = energy.loud(b) * kPlaceFloor + 1e-14;
    for (auto s = near - stepsOf(kPlaceBeforeMs); s <= near + stepsOf(kPlaceAfterMs); ++s) {
      const double after = energy.mean(b, s, s + stepsOf(kRiseAfterMs)) + floor;
      const double before = std::max(energy.mean(b, s - stepsOf(kRiseBeforeMs), s), floor);
      const double clear = decibelsOf(after / before) * wide;
      if (clear <= most) continue;
      most = clear;
      place = s;
    }
  }
  return place;
}

bool drumsIn(const BandEnergy& energy, const std::vector<Attack>& attacks, const std::vector<double>& sure) {
  std::vector<double> left;
  std::vector<double> added;
  const auto level = [&](std::int64_t step) {
    return std::sqrt(energy.mean(kTopBand, step, step + stepsOf(kLevelMs)));
  };
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    if (sure[i] <= 0) continue;
    const auto at = energy.stepOf(attacks[i].at);
    double most = 0;
    for (auto s = at; s < at + stepsOf(kWithinMs); s += stepsOf(1)) most = std::max(most, level(s));
    if (most <= 0) continue;
    double least = most;
    for (auto s = at + stepsOf(kLaterFromMs); s <= at + stepsOf(kLaterToMs); s += stepsOf(1))
      least = std::min(least, level(s));
    left.push_back(least / most);
    added.push_back(energy.addedDb(at));
  }
  return left.size() >= kFewAttacks && percentile(std::move(added), 0.5) >= kLeastAddedDb &&
         percentile(std::move(left), 0.5) <= kMostLeft;
}

std::vector<HeardStroke> findMixStrokes(std::span<const float> samples, const MicLevel& level, const BandEnergy& energy,
                                        Progress& progress, ProgressPart part) {
  std::vector<HeardStroke> all;
  for (const auto& r : broadRises(samples, level, progress, part)) {
    HeardStroke s;
    s.at = energy.frameOf(placeByBands(energy, energy.stepOf(r.at)));
    s.sure = std::clamp((r.rise - kCountsDb) / kSureDb, -1.0, 1.0);
    s.level = level.at(s.at);
    all.push_back(s);
  }
  std::stable_sort(all.begin(), all.end(), [](auto& a, auto& b) { return a.at < b.at; });
  return surerOfNear(all, framesFromMs(kOneStroke * 1000, level.rate).value);
}

}  // namespace ochron

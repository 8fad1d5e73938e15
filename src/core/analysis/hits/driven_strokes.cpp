#include "analysis/hits/driven_strokes.h"

#include <algorithm>
#include <cmath>

#include "base/units.h"

namespace ochron {
namespace {

constexpr double kStrongestShare = 0.97;
constexpr double kDrivenDb = 4.4;  // bows and voices have 3.5 at most, distorted guitars 5.3 and more
constexpr std::size_t kFewRises = 40;
constexpr double kNearSeconds = 0.035;
constexpr double kRiseBeginsMs = 3;  // before it is greatest
constexpr double kOneDrivenSeconds = 0.04;

/// The log odds that a place is a stroke: a logistic regression over four distorted guitars against the notes that
/// their players wrote down, each song scored by the weights of the others (docs/figures.md).
double oddsOf(const NewSound* sound, double rise, double loud) {
  constexpr double kOffset = -0.52;
  constexpr double kOfFresh = 1.39;
  constexpr double kOfRise = 0.369;
  constexpr double kOfNew = 0.47;
  constexpr double kOfSamePitch = -2.75;
  constexpr double kOfBreak = 1.78;
  constexpr double kOfLevel = 1.34;
  constexpr double kMostFresh = 0.6;
  constexpr double kMostRise = 10;
  constexpr double kMostBreak = 1.5;
  double odds =
      kOffset + kOfRise * std::min(rise, kMostRise) + kOfLevel * std::clamp(std::log10(loud + 1e-3), -2.0, 0.3);
  if (sound) {
    odds += kOfNew + kOfFresh * std::min(sound->fresh, kMostFresh);
    if (sound->broken) odds += kOfSamePitch + kOfBreak * std::clamp(sound->broken->aboveUsual, 0.0, kMostBreak);
  }
  return odds;
}

}  // namespace

bool isDriven(const std::vector<BroadRise>& rises) {
  std::vector<double> all;
  for (const auto& r : rises) all.push_back(r.rise);
  return all.size() >= kFewRises && percentile(std::move(all), kStrongestShare) >= kDrivenDb;
}

std::vector<HeardStroke> findDrivenStrokes(const std::vector<NewSound>& sounds, const std::vector<BroadRise>& rises,
                                           const MicLevel& level) {
  constexpr double kCountsOdds = 0.1;     // where as many are missed as are too many
  constexpr double kOddsOfSureness = 16;  // as of all strokes (kOddsOfSure)
  const auto reach = framesFromMs(kNearSeconds * 1000, level.rate).value;
  const auto begins = framesFromMs(kRiseBeginsMs, level.rate).value;
  std::vector<HeardStroke> all;
  const auto add = [&](const NewSound* sound, std::int64_t at, double rise, std::int64_t loudAt) {
    HeardStroke s;
    s.at = std::max<std::int64_t>(0, at);
    s.level = level.at(loudAt);
    s.sure = std::clamp((oddsOf(sound, rise, s.level) - kCountsOdds) / kOddsOfSureness, -1.0, 1.0);
    all.push_back(s);
  };
  std::vector<bool> taken(rises.size(), false);
  for (const auto& sound : sounds) {
    const BroadRise* most = nullptr;
    for (std::size_t i = 0; i < rises.size(); ++i) {
      if (std::abs(rises[i].at - sound.at) > reach) continue;
      taken[i] = true;
      if (!most || rises[i].rise > most->rise) most = &rises[i];
    }
    if (most)
      add(&sound, most->at - begins, most->rise, sound.at);
    else
      add(&sound, sound.at, 0, sound.at);
  }
  for (std::size_t i = 0; i < rises.size(); ++i)
    if (!taken[i]) add(nullptr, rises[i].at - begins, rises[i].rise, rises[i].at);
  std::stable_sort(all.begin(), all.end(), [](auto& a, auto& b) { return a.at < b.at; });
  return surerOfNear(all, framesFromMs(kOneDrivenSeconds * 1000, level.rate).value);
}

}  // namespace ochron

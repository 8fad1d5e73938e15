#include "analysis/pitch/voiced.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

// On made voices, a voice in a room, speech, lines and single notes (docs/figures.md): levels from 5 to 8 dB and
// likenesses of 0.6 to 0.8 and 0.4 to 0.55 tell the same.
constexpr double kLeastOverDb = 3;
constexpr double kClearOverDb = 6;
constexpr double kDeepestDb = 40;  // under the top
constexpr double kVoicedAlike = 0.45;
constexpr double kClearlyAlike = 0.7;
constexpr double kMove = 150;  // cents from one value to the next
constexpr std::size_t kClearValues = 4;
constexpr double kClearShare = 0.3;
constexpr std::size_t kVoicedGap = 3;  // values
constexpr double kAcrossGap = 100;
constexpr std::size_t kRingsInto = 50;  // values, 0.25 s
constexpr double kRingsIntoDb = 10;
constexpr double kVoicedFloorDb = 1;

double centsBetween(const PitchTrack::Value& a, const PitchTrack::Value& b) {
  return std::abs(centsOf(a.hertz) - centsOf(b.hertz));
}

}  // namespace

void markVoiced(std::vector<PitchTrack::Value>& values, const HeardPeriods& heard) {
  const auto size = values.size();
  std::vector<double> alike(size);
  for (std::size_t t = 0; t < size; ++t) alike[t] = heard.overNoise(t, kVoicedFloorDb);
  const auto may = [&](std::size_t t) {
    return values[t].hertz > 0 && heard.level[t] > heard.floor + kLeastOverDb && alike[t] > kVoicedAlike;
  };
  const auto clear = [&](std::size_t t) {
    return heard.level[t] > std::max(heard.floor + kClearOverDb, heard.top - kDeepestDb) && alike[t] > kClearlyAlike;
  };
  std::vector<bool> voiced(size, false);
  for (std::size_t first = 0; first < size;) {
    if (!may(first)) {
      ++first;
      continue;
    }
    auto end = first + 1;
    while (end < size && may(end) && centsBetween(values[end], values[end - 1]) < kMove) ++end;
    std::size_t clearly = 0;
    for (auto t = first; t < end; ++t) clearly += clear(t) ? 1U : 0U;
    if (clearly >= kClearValues && static_cast<double>(clearly) >= kClearShare * static_cast<double>(end - first))
      std::fill(voiced.begin() + static_cast<std::ptrdiff_t>(first), voiced.begin() + static_cast<std::ptrdiff_t>(end),
                true);
    first = end;
  }
  for (std::size_t t = 1; t < size; ++t) {
    if (voiced[t] || !voiced[t - 1]) continue;
    auto end = t;
    while (end < size && !voiced[end]) ++end;
    const auto ringsOn = [&] {
      const double loud = std::min(heard.level[t - 1], heard.level[end]) - kRingsIntoDb;
      for (auto i = t; i < end; ++i)
        if (!values[i].sounds() || heard.level[i] < loud) return false;
      return true;
    };
    if (end < size && end - t <= kRingsInto && ringsOn())
      std::fill(voiced.begin() + static_cast<std::ptrdiff_t>(t), voiced.begin() + static_cast<std::ptrdiff_t>(end),
                true);
    else if (end < size && end - t <= kVoicedGap && centsBetween(values[t - 1], values[end]) < kAcrossGap)
      for (auto i = t; i < end; ++i) {
        voiced[i] = true;
        if (centsBetween(values[i], values[t - 1]) > kAcrossGap) values[i].hertz = values[t - 1].hertz;
      }
    t = end;
  }
  for (std::size_t t = 0; t < size; ++t) {
    const double sure = std::clamp(alike[t], 0.0, 1.0);
    values[t].voiced = values[t].hertz <= 0 ? 0 : voiced[t] ? 0.5 + 0.5 * sure : 0.49 * sure;
  }
}

}  // namespace ochron

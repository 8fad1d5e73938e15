#include "analysis/cycle_breaks.h"

#include <algorithm>
#include <cmath>

#include "analysis/local_period.h"
#include "base/median.h"
#include "dsp/dot.h"

namespace ochron {
namespace {

constexpr double kStep = PitchTrack::kHop / 2;  // s from one comparison to the next
constexpr double kLeastWindow = 0.004;          // s, of what is compared; at least a cycle
constexpr double kSlack = 0.06;                 // of a cycle: a pitch may glide
constexpr double kSamePitch = 60;               // cents, of the 90 ms before and after
constexpr std::int64_t kSidesFrom = 3;          // values of the track from a moment to what counts as before and after
constexpr std::int64_t kSidesTo = 21;
constexpr std::int64_t kNear = 12;      // comparisons, 30 ms
constexpr std::int64_t kAside = 20;     // comparisons, 50 ms
constexpr std::int64_t kAway = 64;      // comparisons, 160 ms
constexpr std::int64_t kApart = 16;     // comparisons, 40 ms
constexpr std::size_t kLeastAway = 20;  // comparisons that tell what is usual
constexpr double kLeastUnlike = 0.01;   // of unlikeness, from which a place may be one
constexpr double kBeforeFrom = 0.11;    // s: where the pitch before and after a moment is heard
constexpr double kBeforeTo = 0.02;
constexpr double kAfterFrom = 0.03;
constexpr double kAfterTo = 0.12;
constexpr double kFloor = 1e-4;  // of unlikeness: noise 40 dB below a tone

double powersOf(double unlike) { return std::log10(std::max(0.0, unlike) + kFloor); }

/// The pitch of values [from, to), Hz; 0 where less than half sound.
double pitchAmid(const PitchTrack& track, std::int64_t from, std::int64_t to) {
  std::vector<double> all;
  for (auto t = std::max<std::int64_t>(0, from); t < std::min(to, std::ssize(track.values)); ++t)
    if (const auto& v = track.values[static_cast<std::size_t>(t)]; v.sounds()) all.push_back(v.hertz);
  return 2 * std::ssize(all) >= to - from ? medianOf(std::move(all)) : 0;
}

/// 1 less the highest correlation of the cycle before `at` with one that lies a period after it; 0 at a recording's
/// ends.
double unlikeness(std::span<const float> x, double at, double period, double window) {
  const auto size = std::llround(window);
  const auto first = std::llround(at) - size;
  const auto least = std::llround(period * (1 - kSlack));
  const auto most = std::llround(period * (1 + kSlack));
  if (first < 0 || first + most + size > std::ssize(x)) return 0;
  const auto part = [&](std::int64_t from) {
    return x.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(size));
  };
  const auto before = part(first);
  const double power = dot(before, before);
  double alike = -1;
  for (auto lag = least; lag <= most; ++lag) {
    const auto after = part(first + lag);
    alike = std::max(alike, dot(before, after) / std::sqrt(power * dot(after, after) + 1e-24));
  }
  return 1 - alike;
}

double mostWithin(const std::vector<double>& unlike, std::int64_t from, std::int64_t to) {
  double most = -1;
  for (auto k = std::max<std::int64_t>(0, from); k < std::min(to, std::ssize(unlike)); ++k)
    most = std::max(most, unlike[static_cast<std::size_t>(k)]);
  return most;
}

/// Of comparisons of which one has the moment `k`.
std::optional<CycleBreak> breakOf(const std::vector<double>& unlike, std::int64_t k) {
  const double here = mostWithin(unlike, k - kNear, k + kNear + 1);
  if (here < 0) return {};
  std::vector<double> away;
  for (auto i = std::max<std::int64_t>(0, k - kAway); i < std::min(k + kAway, std::ssize(unlike)); ++i)
    if ((i < k - kAside || i >= k + kAside) && unlike[static_cast<std::size_t>(i)] >= 0)
      away.push_back(unlike[static_cast<std::size_t>(i)]);
  if (away.size() < kLeastAway) return {};
  const double most = *std::max_element(away.begin(), away.end());
  return CycleBreak{powersOf(here) - powersOf(medianOf(std::move(away))), powersOf(here) - powersOf(most)};
}

/// The period before and after a moment, when both have the same, or one twice the other's: the longer one, samples.
std::optional<double> periodAcross(std::span<const float> x, int rate, double seconds) {
  const auto part = [&](double from, double to) -> std::span<const float> {
    const auto first = std::llround((seconds + from) * rate);
    const auto last = std::llround((seconds + to) * rate);
    if (first < 0 || last > std::ssize(x)) return {};
    return x.subspan(static_cast<std::size_t>(first), static_cast<std::size_t>(last - first));
  };
  const auto before = localPeriod(part(-kBeforeFrom, -kBeforeTo), rate);
  if (!before) return {};
  const auto after = localPeriod(part(kAfterFrom, kAfterTo), rate);
  if (!after) return {};
  const double cents = std::abs(1200 * std::log2(*after / *before));
  if (std::min(cents, std::abs(cents - 1200)) >= kSamePitch) return {};
  return std::max(*before, *after);
}

}  // namespace

double CycleBreak::weighed(double ofUsual, double ofMost) const {
  constexpr double kMostAboveUsual = 1.5;
  constexpr double kLeastAboveMost = -0.5;
  constexpr double kMostAboveMost = 1.2;
  return ofUsual * std::clamp(aboveUsual, 0.0, kMostAboveUsual) +
         ofMost * std::clamp(aboveMost, kLeastAboveMost, kMostAboveMost);
}

std::optional<CycleBreak> cycleBreakAt(std::span<const float> samples, int rate, double seconds) {
  const auto period = periodAcross(samples, rate, seconds);
  if (!period) return {};
  std::vector<double> unlike(2 * kAway, -1.0);
  for (std::int64_t i = 0; i < 2 * kAway; ++i) {
    const auto off = i - kAway;
    const bool near = std::abs(off) <= kNear;
    if (!near && (std::abs(off) < kAside || off % 2 != 0)) continue;
    unlike[static_cast<std::size_t>(i)] = unlikeness(samples, (seconds + static_cast<double>(off) * kStep) * rate,
                                                     *period, std::max(*period, kLeastWindow * rate));
  }
  return breakOf(unlike, kAway);
}

CycleBreaks::CycleBreaks(std::span<const float> samples, int rate, const PitchTrack& track)
    : unlike_(2 * track.values.size(), -1.0) {
  for (std::size_t k = 0; k < unlike_.size(); ++k) {
    const auto value = static_cast<std::int64_t>(k / 2);
    const double before = pitchAmid(track, value - kSidesTo + 1, value - kSidesFrom + 1);
    const double after = pitchAmid(track, value + kSidesFrom, value + kSidesTo);
    if (before <= 0 || after <= 0 || std::abs(centsOf(after) - centsOf(before)) >= kSamePitch) continue;
    const double period = rate / std::sqrt(before * after);
    unlike_[k] =
        unlikeness(samples, static_cast<double>(k) * kStep * rate, period, std::max(period, kLeastWindow * rate));
  }
}

std::optional<CycleBreak> CycleBreaks::at(double seconds) const {
  return breakOf(unlike_, std::llround(seconds / kStep));
}

std::vector<double> CycleBreaks::places() const {
  std::vector<double> out;
  for (std::int64_t k = 0; k < std::ssize(unlike_); ++k) {
    const double here = unlike_[static_cast<std::size_t>(k)];
    if (here > kLeastUnlike && mostWithin(unlike_, k - kApart, k + kApart + 1) <= here)
      out.push_back(static_cast<double>(k) * kStep);
  }
  return out;
}

}  // namespace ochron

#include "analysis/pitch/cycle_break.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <vector>

#include "analysis/pitch/local_period.h"
#include "base/median.h"
#include "base/numbers.h"
#include "dsp/dot.h"
#include "dsp/peak.h"

namespace ochron {
namespace {

constexpr double kNothingThere = 1e-12;  // power
constexpr double kStep = 0.0025;         // s from one comparison to the next
constexpr double kLeastWindow = 0.004;   // s, of what is compared; at least a cycle
constexpr double kSlack = 0.06;          // of a cycle: a pitch may glide
constexpr std::int64_t kStrides = 150;   // of a cycle, in which it is first looked through
constexpr double kSamePitch = 60;        // cents
constexpr int kNear = 12;                // comparisons, 30 ms
constexpr int kAside = 20;               // comparisons, 50 ms
constexpr int kAway = 64;                // comparisons, 160 ms
constexpr std::size_t kLeastAway = 20;   // comparisons that tell what is usual
constexpr double kBeforeFrom = 0.11;     // s: where the pitch before and after a moment is heard
constexpr double kBeforeTo = 0.02;
constexpr double kAfterFrom = 0.03;
constexpr double kAfterTo = 0.12;
constexpr double kLevelFrom = 0.02;  // s from a break: where the level before and after it is taken
constexpr double kLevelTo = 0.07;
constexpr double kDipReach = 0.03;
constexpr double kDipHalf = 0.01;
constexpr double kCycleFloor = 3e-4;  // of unlikeness: noise 35 dB below a tone

double powersOf(double unlike) { return std::log10(std::max(0.0, unlike) + kCycleFloor); }

/// 1 less the highest correlation of the cycle before `at` with one that lies a period after it; below 0 beyond a
/// recording's ends.
double unlikeness(std::span<const float> x, double at, double period, double window) {
  const auto size = std::llround(window);
  const auto first = std::llround(at) - size;
  const auto least = std::llround(period * (1 - kSlack));
  const auto most = std::llround(period * (1 + kSlack));
  if (first < 0 || first + most + size > std::ssize(x)) return -1;
  const auto part = [&](std::int64_t from) {
    return x.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(size));
  };
  const auto before = part(first);
  const double power = dot(before, before);
  const auto likeness = [&](std::int64_t lag) {
    const auto after = part(first + lag);
    return dot(before, after) / std::sqrt(power * dot(after, after) + 1e-24);
  };
  // Roughly, then exactly about the best: so many steps see the twentieth harmonic seven times in each of its cycles.
  const auto stride = std::max<std::int64_t>(1, least / kStrides);
  auto best = least;
  double alike = -1;
  const auto look = [&](std::int64_t lag) {
    const double here = likeness(lag);
    if (here <= alike) return;
    alike = here;
    best = lag;
  };
  for (std::int64_t lag = least; lag <= most; lag += stride) look(lag);
  const auto rough = best;
  for (auto lag = std::max<std::int64_t>(least, rough - stride + 1);
       lag < std::min<std::int64_t>(most + 1, rough + stride); ++lag)
    if (lag != rough) look(lag);
  if (best == least || best == most) return 1 - alike;
  // Between samples: half a sample off, a pitch of 2 kHz would seem to break and mend as its vibrato goes.
  return 1 - std::min(1.0, peakOf(likeness(best - 1), alike, likeness(best + 1)).height);
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

/// Level of what lies between two moments, dB.
double levelOf(std::span<const float> x, int rate, double from, double to) {
  const auto first = std::clamp<std::int64_t>(std::llround(from * rate), 0, std::ssize(x));
  const auto last = std::clamp<std::int64_t>(std::llround(to * rate), first, std::ssize(x));
  if (first == last) return decibelsOf(kNothingThere);
  const auto part = x.subspan(static_cast<std::size_t>(first), static_cast<std::size_t>(last - first));
  return decibelsOf(dot(part, part) / static_cast<double>(part.size()) + kNothingThere);
}

void measureLevel(CycleBreak& b, std::span<const float> x, int rate) {
  const double before = levelOf(x, rate, b.at - kLevelTo, b.at - kLevelFrom);
  b.riseDb = levelOf(x, rate, b.at + kLevelFrom, b.at + kLevelTo) - before;
  double least = before;
  for (double off = -kDipReach; off <= kDipReach; off += kDipHalf / 2)
    least = std::min(least, levelOf(x, rate, b.at + off - kDipHalf, b.at + off + kDipHalf));
  b.dipDb = before - least;
}

}  // namespace

bool CycleBreak::clear() const {
  // On repeated notes of lines and voices with truth, and on single notes that people held (docs/figures.md): of the
  // first one in sixteen is lost, of the second's breaks one in six is left. What is a little unlike on a very pure
  // note is a lip's or a bow's noise.
  constexpr double kOfUsual = 1.48;
  constexpr double kOfHere = 2.01;
  constexpr double kLeastHere = 1e-3;
  constexpr double kEnough = -0.5;
  const double told = kOfUsual * std::clamp(aboveUsual, -0.5, 2.0) + kOfHere * std::log10(here + kLeastHere);
  // Another vowel that sets in much louder begins anew however alike the cycles of a breathy voice are.
  constexpr double kBreaks = 0.6;
  constexpr double kLouderDb = 6;
  // Cycles that break off while the level does not move at all: sound that was joined there.
  constexpr double kMovesDb = 0.9;
  constexpr double kDipsDb = 0.8;
  return (told > kEnough || (aboveUsual >= kBreaks && riseDb >= kLouderDb)) &&
         (dipDb >= kDipsDb || std::abs(riseDb) >= kMovesDb);
}

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
  double here = -1;
  double at = seconds;
  std::vector<double> away;
  for (int k = -kAway; k < kAway; ++k) {
    const bool near = std::abs(k) <= kNear;
    if (!near && (std::abs(k) < kAside || k % 2 != 0)) continue;
    const double unlike =
        unlikeness(samples, (seconds + k * kStep) * rate, *period, std::max(*period, kLeastWindow * rate));
    if (!near) {
      if (unlike >= 0) away.push_back(unlike);
    } else if (unlike > here) {
      here = unlike;
      at = seconds + k * kStep;
    }
  }
  if (here < 0 || away.size() < kLeastAway) return {};
  const double most = *std::max_element(away.begin(), away.end());
  CycleBreak out{powersOf(here) - powersOf(medianOf(std::move(away))), powersOf(here) - powersOf(most), at, here};
  measureLevel(out, samples, rate);
  return out;
}

}  // namespace ochron

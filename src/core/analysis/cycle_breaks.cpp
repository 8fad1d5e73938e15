#include "analysis/cycle_breaks.h"

#include <algorithm>
#include <cmath>

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
constexpr std::int64_t kNear = 12;       // comparisons, 30 ms
constexpr std::int64_t kAside = 20;      // comparisons, 50 ms
constexpr std::int64_t kAway = 64;       // comparisons, 160 ms
constexpr std::int64_t kApart = 16;      // comparisons, 40 ms
constexpr std::size_t kLeastUsual = 20;  // comparisons that tell what is usual
constexpr double kLeastUnlike = 0.01;    // of unlikeness, from which a place may be one
constexpr double kFloor = 1e-4;          // of unlikeness: noise 40 dB below a tone

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

}  // namespace

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

double CycleBreaks::unlikeWithin(std::int64_t from, std::int64_t to) const {
  double most = -1;
  for (auto k = std::max<std::int64_t>(0, from); k < std::min(to, std::ssize(unlike_)); ++k)
    most = std::max(most, unlike_[static_cast<std::size_t>(k)]);
  return most;
}

std::optional<CycleBreaks::Break> CycleBreaks::at(double seconds) const {
  const auto k = static_cast<std::int64_t>(std::llround(seconds / kStep));
  const double here = unlikeWithin(k - kNear, k + kNear + 1);
  if (here < 0) return {};
  std::vector<double> usual;
  for (auto i = std::max<std::int64_t>(0, k - kAway); i < std::min(k + kAway, std::ssize(unlike_)); ++i)
    if ((i < k - kAside || i >= k + kAside) && unlike_[static_cast<std::size_t>(i)] >= 0)
      usual.push_back(unlike_[static_cast<std::size_t>(i)]);
  if (usual.size() < kLeastUsual) return {};
  const double most = *std::max_element(usual.begin(), usual.end());
  return Break{powersOf(here) - powersOf(medianOf(std::move(usual))), powersOf(here) - powersOf(most)};
}

std::vector<double> CycleBreaks::places() const {
  std::vector<double> out;
  for (std::int64_t k = 0; k < std::ssize(unlike_); ++k) {
    const double here = unlike_[static_cast<std::size_t>(k)];
    if (here > kLeastUnlike && unlikeWithin(k - kApart, k + kApart + 1) <= here)
      out.push_back(static_cast<double>(k) * kStep);
  }
  return out;
}

}  // namespace ochron

#include "analysis/pitch/pitch_course.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <numbers>

#include "base/median.h"

namespace ochron {
namespace {

constexpr double kSmooth = 0.0625;     // s, of the Gaussian
constexpr double kSmoothTurns = 0.35;  // of a vibrato, at least
constexpr double kSineHeld = 1e-3;  // of the weight of all: a sine that too few values tell from a line is held small
constexpr double kLeastPivot = 1e-9;
constexpr double kLeastBound = 45;      // cents around the centre within which a note has settled
constexpr double kBoundOfSpread = 2.2;  // times the median distance: a vibrato of any extent is settled
constexpr std::size_t kSettled = 5;     // values in a row
constexpr double kQuick = 12;           // cents from value to value: what ends so is a glide, or a voice that is gone

/// From the first of `kSettled` values in a row that lie within a bound of the centre.
std::size_t settlesAt(const std::vector<double>& course, double centre, double bound) {
  std::size_t run = 0;
  for (std::size_t i = 0; i < course.size(); ++i) {
    run = std::abs(course[i] - centre) <= bound ? run + 1 : 0;
    if (run == kSettled) return i + 1 - kSettled;
  }
  return 0;
}

/// Solves a symmetric positive system by elimination; what carries no weight of its own is left out.
template <std::size_t N>
std::array<double, N> solved(std::array<std::array<double, N>, N> a, std::array<double, N> b) {
  std::array<bool, N> used{};
  for (std::size_t p = 0; p < N; ++p) {
    used[p] = a[p][p] > kLeastPivot;
    if (!used[p]) continue;
    for (std::size_t r = p + 1; r < N; ++r) {
      const double times = a[r][p] / a[p][p];
      for (std::size_t c = p; c < N; ++c) a[r][c] -= times * a[p][c];
      b[r] -= times * b[p];
    }
  }
  std::array<double, N> x{};
  for (std::size_t p = N; p-- > 0;) {
    if (!used[p]) continue;
    double rest = b[p];
    for (std::size_t c = p + 1; c < N; ++c) rest -= a[p][c] * x[c];
    x[p] = rest / a[p][p];
  }
  return x;
}

/// The level, at each value, of a line (and of a sine of `turn` radians a value beside it) fitted under a Gaussian,
/// `smooth` seconds wide.
template <std::size_t N>
std::vector<double> fitted(const std::vector<double>& y, double smooth, double turn) {
  using Matrix = std::array<std::array<double, N>, N>;
  const double wide = smooth / PitchTrack::kHop;
  const auto reach = static_cast<std::int64_t>(3 * wide);
  // What stands beside a value counts alike for each: its terms by weight, and the sums of their products up to there.
  std::vector<std::array<double, N>> weighted;
  std::vector<Matrix> upTo{Matrix{}};
  for (auto off = -reach; off <= reach; ++off) {
    const double d = static_cast<double>(off) / wide;
    const double weight = std::exp(-0.5 * d * d);
    std::array<double, N> terms{1, d};
    if constexpr (N == 4) {
      terms[2] = std::cos(turn * static_cast<double>(off));
      terms[3] = std::sin(turn * static_cast<double>(off));
    }
    auto& w = weighted.emplace_back();
    auto sums = upTo.back();
    for (std::size_t r = 0; r < N; ++r) {
      w[r] = weight * terms[r];
      for (std::size_t c = 0; c < N; ++c) sums[r][c] += w[r] * terms[c];
    }
    upTo.push_back(sums);
  }
  std::vector<double> out;
  out.reserve(y.size());
  for (std::int64_t i = 0; i < std::ssize(y); ++i) {
    const auto from = std::max<std::int64_t>(0, i - reach);
    const auto to = std::min<std::int64_t>(std::ssize(y), i + reach + 1);
    auto a = upTo[static_cast<std::size_t>(to - i + reach)];
    const auto& before = upTo[static_cast<std::size_t>(from - i + reach)];
    for (std::size_t r = 0; r < N; ++r)
      for (std::size_t c = 0; c < N; ++c) a[r][c] -= before[r][c];
    std::array<double, N> b{};
    for (auto k = from; k < to; ++k)
      for (std::size_t r = 0; r < N; ++r)
        b[r] += weighted[static_cast<std::size_t>(k - i + reach)][r] * y[static_cast<std::size_t>(k)];
    for (std::size_t r = 2; r < N; ++r) a[r][r] += kSineHeld * a[0][0];
    out.push_back(solved(a, b)[0]);
  }
  return out;
}

}  // namespace

std::vector<double> pitchCourse(const PitchTrack& track, std::size_t first, std::size_t last) {
  last = std::min(last, track.values.size());
  std::vector<double> out;
  std::size_t filled = 0;
  for (auto t = first; t < last; ++t) {
    if (!track.values[t].sounds()) {
      out.push_back(0);
      continue;
    }
    const double here = centsOf(track.values[t].hertz);
    const auto at = out.size();
    const double before = filled == 0 ? here : out[filled - 1];
    for (auto k = filled; k < at; ++k) {
      const double along = static_cast<double>(k + 1 - filled) / static_cast<double>(at + 1 - filled);
      out[k] = before + (here - before) * along;
    }
    out.push_back(here);
    filled = out.size();
  }
  for (auto k = filled; k < out.size(); ++k) out[k] = filled == 0 ? 0 : out[filled - 1];
  return out;
}

std::vector<double> withoutVibrato(const std::vector<double>& y) { return fitted<2>(y, kSmooth, 0); }

std::vector<double> withoutVibrato(const std::vector<double>& y, double hertz) {
  return fitted<4>(y, std::max(kSmooth, kSmoothTurns / hertz), 2 * std::numbers::pi * hertz * PitchTrack::kHop);
}

double movementKept(double hertz) {
  const double w = 2 * std::numbers::pi * hertz * kSmooth;
  return std::exp(-0.5 * w * w);
}

std::pair<std::size_t, std::size_t> settledPart(const std::vector<double>& course, double centre) {
  std::vector<double> off;
  off.reserve(course.size());
  for (const double c : course) off.push_back(std::abs(c - centre));
  const double bound = std::max(kLeastBound, kBoundOfSpread * medianOf(off));
  const auto in = settlesAt(course, centre, bound);
  const auto left = settlesAt({course.rbegin(), course.rend()}, centre, bound);
  if (in + left >= course.size()) return {0, course.size()};
  auto first = in;
  auto last = course.size() - left;
  const auto quick = [&](std::size_t a) { return std::abs(course[a] - course[a + 1]) > kQuick; };
  while (last - first > kSettled && quick(first)) ++first;
  while (last - first > kSettled && quick(last - 2)) --last;
  return {first, last};
}

}  // namespace ochron

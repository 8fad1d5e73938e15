#include "analysis/pitch_course.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numbers>

#include "base/median.h"

namespace ochron {
namespace {

constexpr double kSmooth = 0.0625;      // s, of the Gaussian
constexpr double kLeastBound = 45;      // cents around the centre within which a note has settled
constexpr double kBoundOfSpread = 2.2;  // times the median distance: a vibrato of any extent is settled
constexpr std::size_t kSettled = 5;     // values in a row

/// From the first of `kSettled` values in a row that lie within a bound of the centre.
std::size_t settlesAt(const std::vector<double>& course, double centre, double bound) {
  std::size_t run = 0;
  for (std::size_t i = 0; i < course.size(); ++i) {
    run = std::abs(course[i] - centre) <= bound ? run + 1 : 0;
    if (run == kSettled) return i + 1 - kSettled;
  }
  return 0;
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

std::vector<double> withoutVibrato(const std::vector<double>& y) {
  const double wide = kSmooth / PitchTrack::kHop;
  const auto reach = static_cast<std::int64_t>(3 * wide);
  std::vector<double> out;
  out.reserve(y.size());
  for (std::int64_t i = 0; i < std::ssize(y); ++i) {
    double w0 = 0;
    double w1 = 0;
    double w2 = 0;
    double y0 = 0;
    double y1 = 0;
    for (auto k = std::max<std::int64_t>(0, i - reach); k <= std::min<std::int64_t>(std::ssize(y) - 1, i + reach);
         ++k) {
      const auto d = static_cast<double>(k - i);
      const double w = std::exp(-0.5 * d * d / (wide * wide));
      const double v = y[static_cast<std::size_t>(k)];
      w0 += w;
      w1 += w * d;
      w2 += w * d * d;
      y0 += w * v;
      y1 += w * d * v;
    }
    const double all = w0 * w2 - w1 * w1;
    out.push_back(all > 1e-9 ? (w2 * y0 - w1 * y1) / all : y[static_cast<std::size_t>(i)]);
  }
  return out;
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
  return in + left < course.size() ? std::pair{in, course.size() - left} : std::pair{std::size_t{}, course.size()};
}

}  // namespace ochron

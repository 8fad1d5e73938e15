#include "analysis/tempo/steady_line.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "analysis/hits/mix_strokes.h"
#include "base/median.h"
#include "dsp/peak.h"

namespace ochron {
namespace {

constexpr double kReach = 0.035;     // s, that an onset may lie from its beat
constexpr double kNarrow = 0.015;    // s, of the Gaussian that prefers near ones
constexpr double kLatency = 0.0003;  // s, of the activation's peak against attacks of known beats
constexpr double kAhead = 0.002;     // s, from where an onset is seen to where its attack is looked for
constexpr double kLeastPeak = 0.08;
constexpr double kRobustMs = 12;  // Cauchy scale of beats off the curve
constexpr double kStiff = 4;      // weight of the curve's bends
constexpr int kRounds = 4;
constexpr double kWanders = 0.02;      // of the tempo, between the recording's parts: no steady line
constexpr double kLeavesLine = 0.035;  // s, half of the beats lie further from it: no steady line

/// Solves (diag(w) + k D'D) x = diag(w) y, D the second difference, by banded elimination.
std::vector<double> smooth(const std::vector<double>& y, const std::vector<double>& w, double k) {
  const auto n = y.size();
  if (n < 3) return y;
  std::vector<std::array<double, 5>> a(n, {0, 0, 0, 0, 0});  // a[i][2 + d] couples i and i + d
  std::vector<double> b(n);
  for (std::size_t i = 0; i < n; ++i) {
    a[i][2] += w[i];
    b[i] = w[i] * y[i];
  }
  constexpr std::array<double, 3> kBend{1, -2, 1};
  for (std::size_t i = 0; i + 2 < n; ++i)
    for (std::size_t p = 0; p < 3; ++p)
      for (std::size_t q = 0; q < 3; ++q) a[i + p][2 + q - p] += k * kBend[p] * kBend[q];
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t d = 1; d <= 2 && i + d < n; ++d) {
      const double f = a[i + d][2 - d] / a[i][2];
      for (std::size_t c = 0; c <= 2 && i + c < n; ++c) a[i + d][2 + c - d] -= f * a[i][2 + c];
      b[i + d] -= f * b[i];
    }
  std::vector<double> x(n);
  for (std::size_t i = n; i-- > 0;) {
    double s = b[i];
    for (std::size_t c = 1; c <= 2 && i + c < n; ++c) s -= a[i][2 + c] * x[i + c];
    x[i] = s / a[i][2];
  }
  return x;
}

/// Where the activation peaks near a beat, and how strongly; weight 0 when it does not.
std::pair<double, double> peakNear(const OnsetCurves& curves, double beat) {
  const auto& a = curves.activation;
  const auto centre = std::llround(beat * OnsetCurves::kPerSecond);
  const auto reach = std::llround(kReach * OnsetCurves::kPerSecond);
  double top = 0;
  std::int64_t at = -1;
  const auto weighted = [&](std::int64_t i) {
    const double off = (static_cast<double>(i) / OnsetCurves::kPerSecond - beat) / kNarrow;
    return static_cast<double>(a[static_cast<std::size_t>(i)]) * std::exp(-0.5 * off * off);
  };
  for (auto i = std::max<std::int64_t>(1, centre - reach); i <= centre + reach && i + 1 < std::ssize(a); ++i)
    if (const double v = weighted(i); v > top) {
      top = v;
      at = i;
    }
  if (at < 1 || top < kLeastPeak) return {beat, 0};
  const auto k = static_cast<std::size_t>(at);
  const double shift = peakOf(a[k - 1], a[k], a[k + 1]).shift;
  return {(static_cast<double>(at) + shift) / OnsetCurves::kPerSecond - kLatency, a[k]};
}

bool wander(const std::vector<double>& beats) {
  // The tempo of each part must be that of the whole.
  const double whole = secondsABeat(beats, 0, beats.size());
  const auto part = std::max<std::size_t>(6, beats.size() / 4);
  for (std::size_t from = 0; from + part <= beats.size(); from += part)
    if (std::abs(secondsABeat(beats, from, from + part) / whole - 1) > kWanders) return true;
  // What breathes within a part is steady on the whole: its beats leave the line.
  std::vector<double> away;
  for (std::size_t i = 0; i < beats.size(); ++i) away.push_back(beats[i] - whole * static_cast<double>(i));
  const double begin = medianOf(away);
  for (auto& o : away) o = std::abs(o - begin);
  return medianOf(std::move(away)) > kLeavesLine;
}

/// An onset to the sample, on the sixteenth of the beats that is nearest.
struct Point {
  double place;  // beats
  double time;   // s
  double weight;
};

std::vector<Point> pointsOn(const std::vector<double>& beats, const BandEnergy& energy, const OnsetCurves& curves) {
  constexpr float kClear = 0.25F;
  constexpr double kOffSixteenth = 0.03;  // s
  std::vector<Point> out;
  const double whole = secondsABeat(beats, 0, beats.size());
  const double first = beats.front() - whole * 0.5;
  const auto end = energy.secondsOf(energy.steps());
  const auto& a = curves.activation;
  for (std::int64_t i = 0; i + 1 < std::ssize(a); ++i) {
    const auto k = static_cast<std::size_t>(i);
    if (a[k] < kClear || (i > 0 && a[k] < a[k - 1]) || a[k] <= a[k + 1]) continue;
    const double near = static_cast<double>(i) / OnsetCurves::kPerSecond - kLatency;
    if (near < first || near > end) continue;
    const double time = energy.secondsOf(placeByBands(energy, energy.stepAt(near + kAhead)));
    const auto next = std::upper_bound(beats.begin(), beats.end(), time);
    const auto b = std::clamp<std::ptrdiff_t>(next - beats.begin() - 1, 0, std::ssize(beats) - 2);
    const double left = beats[static_cast<std::size_t>(b)];
    const double place = static_cast<double>(b) + (time - left) / (beats[static_cast<std::size_t>(b) + 1] - left);
    const double snapped = std::round(place * 4) / 4;
    if (std::abs(place - snapped) * whole <= kOffSixteenth) out.push_back({snapped, time, static_cast<double>(a[k])});
  }
  return out;
}

/// One round of weighted least squares; `keep`: the step stays.
bool fitOnce(const std::vector<Point>& points, double scale, bool keep, double& start, double& step) {
  double sw = 0;
  double sx = 0;
  double sy = 0;
  double sxx = 0;
  double sxy = 0;
  for (const auto& p : points) {
    const double off = p.time - start - step * p.place;
    const double w = p.weight / (1 + off * off / (scale * scale));
    sw += w;
    sx += w * p.place;
    sy += w * p.time;
    sxx += w * p.place * p.place;
    sxy += w * p.place * p.time;
  }
  const double bottom = sw * sxx - sx * sx;
  if (bottom <= 0) return false;
  if (!keep) step = (sw * sxy - sx * sy) / bottom;
  start = (sy - step * sx) / sw;
  return true;
}

}  // namespace

double secondsABeat(const std::vector<double>& beats, std::size_t from, std::size_t to) {
  double sx = 0;
  double sy = 0;
  double sxx = 0;
  double sxy = 0;
  const auto n = static_cast<double>(to - from);
  for (auto i = from; i < to; ++i) {
    const auto x = static_cast<double>(i - from);
    sx += x;
    sy += beats[i];
    sxx += x * x;
    sxy += x * beats[i];
  }
  return (n * sxy - sx * sy) / (n * sxx - sx * sx);
}

std::vector<double> refinedBeats(const OnsetCurves& curves, const std::vector<double>& beats) {
  std::vector<double> places;
  std::vector<double> strengths;
  for (const double b : beats) {
    const auto [at, strength] = peakNear(curves, b);
    places.push_back(at);
    strengths.push_back(strength);
  }
  std::vector<double> weights = strengths;
  for (auto& w : weights) w = std::max(w, 1e-4);
  auto line = smooth(places, weights, kStiff);
  for (int round = 0; round < kRounds; ++round) {
    for (std::size_t i = 0; i < places.size(); ++i) {
      const double off = (places[i] - line[i]) * 1000 / kRobustMs;
      weights[i] = std::max(strengths[i] / (1 + off * off), 1e-4);
    }
    line = smooth(places, weights, kStiff);
  }
  return line;
}

std::optional<SteadyLine> steadyLine(const BandEnergy& energy, const OnsetCurves& curves,
                                     const std::vector<double>& beats, std::optional<double> bpm) {
  constexpr std::size_t kFewest = 8;
  constexpr double kNarrowest = 0.002;  // s
  if (beats.size() < (bpm ? 2 : kFewest) || (!bpm && wander(beats))) return {};
  const auto points = pointsOn(beats, energy, curves);
  if (points.size() < kFewest) return {};
  double start = beats.front();
  double step = bpm ? 60 / *bpm : secondsABeat(beats, 0, beats.size());
  double scale = 0.01;
  for (int round = 0; round < 12; ++round) {
    std::vector<double> offs;
    offs.reserve(points.size());
    for (const auto& p : points) offs.push_back(std::abs(p.time - start - step * p.place));
    if (!fitOnce(points, scale, bpm.has_value(), start, step)) return {};
    scale = std::max(kNarrowest, 1.5 * medianOf(std::move(offs)));
  }
  return SteadyLine{60 / step, start, scale / 1.5 * 1000};
}

}  // namespace ochron

#include "analysis/bar_lines.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>

namespace ochron {
namespace {

constexpr double kTernary = 1.7;         // thirds of a beat against its half, both together
constexpr double kThreeMustBeat = 1.12;  // three to the bar is rarer than four

double around(const std::vector<float>& curve, double seconds) {
  constexpr std::int64_t kReach = 7;
  const auto at = std::llround(seconds * OnsetCurves::kPerSecond);
  float top = 0;
  for (auto i = std::max<std::int64_t>(0, at - kReach); i <= at + kReach && i < std::ssize(curve); ++i)
    top = std::max(top, curve[static_cast<std::size_t>(i)]);
  return static_cast<double>(top);
}

void standardise(std::vector<double>& v) {
  double mean = 0;
  for (const double x : v) mean += x / static_cast<double>(v.size());
  double spread = 1e-9;
  for (const double x : v) spread += (x - mean) * (x - mean) / static_cast<double>(v.size());
  for (auto& x : v) x = (x - mean) / std::sqrt(spread);
}

/// How much the harmony of the `wide` beats from a beat on differs from that of those before it.
std::vector<double> newHarmony(const Chroma& chroma, const std::vector<double>& beats, std::size_t wide) {
  const auto sum = [&](double from, double to) {
    std::array<double, 12> out{};
    const auto a = static_cast<std::size_t>(std::max(0.0, from * chroma.perSecond));
    const auto b = static_cast<std::size_t>(std::max(0.0, to * chroma.perSecond));
    for (auto i = a; i < std::min(b, chroma.frames.size()); ++i)
      for (std::size_t k = 0; k < 12; ++k) out[k] += static_cast<double>(chroma.frames[i][k]);
    return out;
  };
  std::vector<double> out(beats.size(), 0.0);
  for (std::size_t i = wide; i + wide < beats.size(); ++i) {
    const auto x = sum(beats[i - wide], beats[i]);
    const auto y = sum(beats[i], beats[i + wide]);
    double xy = 0;
    double xx = 1e-9;
    double yy = 1e-9;
    for (std::size_t k = 0; k < 12; ++k) {
      xy += x[k] * y[k];
      xx += x[k] * x[k];
      yy += y[k] * y[k];
    }
    out[i] = 1 - xy / std::sqrt(xx * yy);
  }
  return out;
}

/// Whether beats are divided into three evenly. Swing has the last third only.
bool ternary(const OnsetCurves& curves, const std::vector<double>& beats) {
  const auto placed = [&](double share) {
    double sum = 0;
    for (std::size_t b = 0; b + 1 < beats.size(); ++b) {
      const double at = beats[b] + (beats[b + 1] - beats[b]) * share;
      sum += around(curves.bands[3], at) + around(curves.bands[4], at);
    }
    return sum;
  };
  const double first = placed(1.0 / 3);
  const double last = placed(2.0 / 3);
  return first > 0.6 * last && last > 0.6 * first && first + last > kTernary * placed(0.5);
}

}  // namespace

BarLines barLines(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats) {
  BarLines out;
  const auto n = beats.size();
  if (n < 3) return out;
  std::vector<double> evidence(n, 0.0);
  const auto add = [&](std::vector<double> feature, double weight) {
    standardise(feature);
    for (std::size_t i = 0; i < n; ++i) evidence[i] += weight * feature[i];
  };
  std::vector<double> low(n);
  std::vector<double> middle(n);
  std::vector<double> high(n);
  for (std::size_t i = 0; i < n; ++i) {
    low[i] = around(curves.bands[0], beats[i]);
    middle[i] = around(curves.bands[2], beats[i]);
    high[i] = around(curves.bands[4], beats[i]);
  }
  add(low, 1.0);
  add(middle, -0.4);  // the snare is on the others
  add(high, 0.2);
  add(newHarmony(chroma, beats, 1), 0.8);
  add(newHarmony(chroma, beats, 2), 1.2);
  add(newHarmony(chroma, beats, 4), 0.8);
  // Best phase of each meter: the mean of its downbeats over that of the other beats.
  double best = -1e9;
  double second = -1e9;
  std::size_t phase = 0;
  std::vector<int> meters{4, 3};
  if (ternary(curves, beats)) meters = {2, 3};  // 6/8 and 9/8
  for (const int per : meters) {
    for (std::size_t p = 0; p < static_cast<std::size_t>(per); ++p) {
      double on = 0;
      int count = 0;
      for (auto i = p; i < n; i += static_cast<std::size_t>(per)) {
        on += evidence[i];
        ++count;
      }
      if (count == 0) continue;
      // A mean over fewer beats is larger by chance: it is taken against its own spread.
      const double score = on / std::sqrt(static_cast<double>(count)) / (per == 3 ? kThreeMustBeat : 1.0) *
                           std::sqrt(static_cast<double>(per) / 4.0);
      if (score > best) {
        second = best;
        best = score;
        out.beatsPerBar = per;
        phase = p;
      } else {
        second = std::max(second, score);
      }
    }
  }
  out.margin = best - second;
  for (auto i = phase; i < n; i += static_cast<std::size_t>(out.beatsPerBar)) out.downbeats.push_back(i);
  return out;
}

}  // namespace ochron

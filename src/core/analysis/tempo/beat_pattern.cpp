#include "analysis/tempo/beat_pattern.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace ochron {

double strongest(const std::vector<float>& curve, double seconds, int reach) {
  const auto at = std::llround(seconds * OnsetCurves::kPerSecond);
  float top = 0;
  for (auto i = std::max<std::int64_t>(0, at - reach); i <= at + reach && i < std::ssize(curve); ++i)
    top = std::max(top, curve[static_cast<std::size_t>(i)]);
  return static_cast<double>(top);
}

std::vector<double> onsetsOf(const OnsetCurves& curves) {
  constexpr float kLeast = 0.2F;
  constexpr double kApart = 0.03;
  std::vector<double> out;
  const auto& a = curves.activation;
  for (std::size_t i = 0; i + 1 < a.size(); ++i) {
    if (a[i] < kLeast || (i > 0 && a[i] < a[i - 1]) || a[i] <= a[i + 1]) continue;
    const double at = static_cast<double>(i) / OnsetCurves::kPerSecond;
    if (out.empty() || at - out.back() >= kApart) out.push_back(at);
  }
  return out;
}

double highPlaced(const OnsetCurves& curves, const std::vector<double>& beats, double share) {
  constexpr int kBeside = 4;
  double sum = 0;
  for (std::size_t b = 0; b + 1 < beats.size(); ++b) {
    const double at = beats[b] + (beats[b + 1] - beats[b]) * share;
    sum += strongest(curves.bands[3], at, kBeside) + strongest(curves.bands[4], at, kBeside);
  }
  return sum / static_cast<double>(std::max<std::size_t>(1, beats.size() - 1));
}

StepPatterns::StepPatterns(const OnsetCurves& curves, const std::vector<double>& steps, int places) {
  constexpr int kReach = 3;
  for (std::size_t s = 0; s + 1 < steps.size(); ++s) {
    auto& p = patterns_.emplace_back();
    for (int k = 0; k < places; ++k) {
      const double at = steps[s] + (steps[s + 1] - steps[s]) * k / places;
      for (const auto& band : curves.bands) p.push_back(strongest(band, at, kReach));
    }
  }
}

double likeness(const StepPatterns::Pattern& a, const StepPatterns::Pattern& b) {
  double ab = 0;
  double aa = 1e-9;
  double bb = 1e-9;
  for (std::size_t i = 0; i < a.size(); ++i) {
    ab += a[i] * b[i];
    aa += a[i] * a[i];
    bb += b[i] * b[i];
  }
  return ab / std::sqrt(aa * bb);
}

double StepPatterns::repetition(std::size_t lag) const {
  double sum = 0;
  int n = 0;
  for (std::size_t s = lag; s < patterns_.size(); ++s, ++n) sum += likeness(patterns_[s], patterns_[s - lag]);
  return n > 0 ? sum / n : 0;
}

}  // namespace ochron

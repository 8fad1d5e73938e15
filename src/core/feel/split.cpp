#include "feel/split.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

#include "base/median.h"

namespace ochron {
namespace {

constexpr int kRounds = 12;
constexpr double kShrink = 1.5;           // hits' worth of belief in the wider mean
constexpr double kSmallestScaleMs = 0.5;  // below this all residuals count fully

/// Tukey's biweight with the scale of the residuals: 1 in the middle, 0 beyond six times the median distance.
std::vector<double> robustWeights(const std::vector<double>& residuals) {
  std::vector<double> distance(residuals.size());
  std::transform(residuals.begin(), residuals.end(), distance.begin(), [](double r) { return std::abs(r); });
  const double limit = 6.0 * std::max(kSmallestScaleMs, medianOf(distance));
  std::vector<double> w(residuals.size());
  for (std::size_t i = 0; i < w.size(); ++i) {
    const double u = distance[i] / limit;
    w[i] = u < 1 ? (1 - u * u) * (1 - u * u) : 0;
  }
  return w;
}

std::vector<double> smoothLine(const std::vector<Placement>& p, const std::vector<double>& y,
                               const std::vector<double>& weight, double reach) {
  std::vector<double> out(y.size());
  std::size_t first = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    while (p[first].bar < p[i].bar - reach) ++first;
    double sw = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    for (std::size_t k = first; k < y.size() && p[k].bar <= p[i].bar + reach; ++k) {
      const double x = p[k].bar - p[i].bar;
      const double u = std::abs(x) / (reach * 1.0001);
      const double rest = 1 - u * u * u;
      const double w = rest * rest * rest * weight[k];  // tricube
      sw += w, sx += w * x, sy += w * y[k], sxx += w * x * x, sxy += w * x * y[k];
    }
    if (sw <= 1e-9) continue;
    const double det = sw * sxx - sx * sx;
    out[i] = det > 1e-6 * sw * sw * reach * reach ? (sxx * sy - sx * sxy) / det : sy / sw;
  }
  return out;
}

struct Sum {
  double w = 0, y = 0;
  double mean() const { return w > 0 ? y / w : 0; }
};

std::vector<double> placeMeans(const std::vector<Placement>& p, const std::vector<double>& y,
                               const std::vector<double>& weight) {
  Sum all;
  std::map<int, Sum> places;
  std::map<std::pair<int, int>, Sum> cells;
  for (std::size_t i = 0; i < y.size(); ++i)
    for (Sum* s : {&all, &places[p[i].place], &cells[{p[i].place, p[i].group}]}) {
      s->w += weight[i];
      s->y += weight[i] * y[i];
    }
  std::vector<double> out(y.size());
  for (std::size_t i = 0; i < y.size(); ++i) {
    const auto& place = places[p[i].place];
    const auto& cell = cells[{p[i].place, p[i].group}];
    const double wide = (place.y + kShrink * all.mean()) / (place.w + kShrink);
    out[i] = (cell.y + kShrink * wide) / (cell.w + kShrink);
  }
  return out;
}

}  // namespace

FeelSplit splitFeel(const std::vector<Placement>& p, double driftBars) {
  const auto n = p.size();
  FeelSplit f{std::vector<double>(n, 0.0), std::vector<double>(n, 0.0), std::vector<double>(n, 0.0)};
  if (n == 0) return f;
  std::vector<double> y(n);
  for (std::size_t round = 0; round < kRounds; ++round) {
    for (std::size_t i = 0; i < n; ++i) y[i] = p[i].deviationMs - f.driftMs[i] - f.pocketMs[i];
    const auto weight = robustWeights(y);
    for (std::size_t i = 0; i < n; ++i) y[i] = p[i].deviationMs - f.driftMs[i];
    f.pocketMs = placeMeans(p, y, weight);
    for (std::size_t i = 0; i < n; ++i) y[i] = p[i].deviationMs - f.pocketMs[i];
    f.driftMs = smoothLine(p, y, weight, driftBars);
    double mean = 0;
    for (const double d : f.driftMs) mean += d / static_cast<double>(n);
    for (double& d : f.driftMs) d -= mean;  // a constant lag is the player's pocket
  }
  for (std::size_t i = 0; i < n; ++i) f.scatterMs[i] = p[i].deviationMs - f.driftMs[i] - f.pocketMs[i];
  return f;
}

}  // namespace ochron

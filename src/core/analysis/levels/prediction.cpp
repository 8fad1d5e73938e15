#include "analysis/levels/prediction.h"

#include <algorithm>
#include <array>
#include <vector>

#include "analysis/levels/localise.h"
#include "base/units.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr std::size_t kOrder = 24;
constexpr double kFitFromMs = 40;
constexpr double kFitToMs = 9;
constexpr double kLookBeforeMs = 8;
constexpr double kLookAfterMs = 6;
constexpr double kResidualFloor = 1e-3;  // of the loudest sample's power
constexpr double kRegularised = 1e-6;

/// Levinson-Durbin: prediction coefficients for lags 1 to kOrder.
std::array<double, kOrder> predictor(const std::array<double, kOrder + 1>& r) {
  std::array<double, kOrder> a{};
  double error = r[0];
  for (std::size_t i = 0; i < kOrder && error > 0; ++i) {
    double acc = r[i + 1];
    for (std::size_t k = 0; k < i; ++k) acc -= a[k] * r[i - k];
    const double reflection = acc / error;
    auto next = a;
    next[i] = reflection;
    for (std::size_t k = 0; k < i; ++k) next[k] = a[k] - reflection * a[i - 1 - k];
    a = next;
    error *= 1 - reflection * reflection;
  }
  return a;
}

}  // namespace

std::int64_t placeOnResidual(std::span<const float> samples, int rate, std::int64_t coarse) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  const auto length = std::ssize(samples);
  const auto fitFrom = std::clamp<std::int64_t>(coarse - ms(kFitFromMs), 0, length);
  const auto fitTo = std::clamp<std::int64_t>(coarse - ms(kFitToMs), 0, length);
  const auto from = std::clamp<std::int64_t>(coarse - ms(kLookBeforeMs), 0, length);
  const auto to = std::clamp<std::int64_t>(coarse + ms(kLookAfterMs), 0, length);
  if (fitTo - fitFrom < 8 * static_cast<std::int64_t>(kOrder) || to - from < 32)
    return pickVarianceChange(samples, from, to, kResidualFloor);
  const auto n = static_cast<std::size_t>(fitTo - fitFrom);
  std::vector<double> windowed(n);
  for (std::size_t i = 0; i < n; ++i)
    windowed[i] =
        samples[static_cast<std::size_t>(fitFrom) + i] * hannAt(static_cast<double>(i) / static_cast<double>(n));
  std::array<double, kOrder + 1> r{};
  for (std::size_t lag = 0; lag <= kOrder; ++lag)
    for (std::size_t i = lag; i < n; ++i) r[lag] += windowed[i] * windowed[i - lag];
  r[0] += r[0] * kRegularised + 1e-12;
  const auto a = predictor(r);
  std::vector<float> residual(static_cast<std::size_t>(to - from));
  for (std::int64_t i = from; i < to; ++i) {
    double predicted = 0;
    for (std::size_t k = 0; k < kOrder && i - 1 >= static_cast<std::int64_t>(k); ++k)
      predicted += a[k] * samples[static_cast<std::size_t>(i - 1) - k];
    residual[static_cast<std::size_t>(i - from)] = static_cast<float>(samples[static_cast<std::size_t>(i)] - predicted);
  }
  return pickVarianceChange(residual, 0, std::ssize(residual), kResidualFloor) + from;
}

}  // namespace ochron

#include "analysis/localise.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace ochron {
namespace {
constexpr double kBodyFloor = 1e-3;  // bleed reaches -20 to -30 dB; its mean power lies lower still
constexpr double kWeakFloor = 3e-3;  // of a weak stroke's body
constexpr double kBodyHz = 900;
constexpr double kBeginFloor = 1e-7;  // keeps digital silence from deciding alone
}  // namespace

std::int64_t pickVarianceChange(std::span<const float> samples, std::int64_t from, std::int64_t to, double floorShare) {
  from = std::clamp<std::int64_t>(from, 0, std::ssize(samples));
  to = std::clamp<std::int64_t>(to, from, std::ssize(samples));
  const auto n = to - from;
  if (n < 16) return from;
  std::vector<double> cumulative(static_cast<std::size_t>(n + 1), 0.0);
  double loudest = 0;
  for (std::int64_t i = 0; i < n; ++i) {
    const double s = samples[static_cast<std::size_t>(from + i)];
    cumulative[static_cast<std::size_t>(i + 1)] = cumulative[static_cast<std::size_t>(i)] + s * s;
    loudest = std::max(loudest, s * s);
  }
  const double floor = loudest * floorShare + 1e-14;
  std::int64_t best = from;
  double bestValue = 1e300;
  constexpr std::int64_t kMargin = 4;
  for (std::int64_t k = kMargin; k < n - kMargin; ++k) {
    const double left = cumulative[static_cast<std::size_t>(k)] / static_cast<double>(k) + floor;
    const double right = (cumulative[static_cast<std::size_t>(n)] - cumulative[static_cast<std::size_t>(k)]) /
                             static_cast<double>(n - k) +
                         floor;
    const double value = static_cast<double>(k) * std::log(static_cast<float>(left)) +
                         static_cast<double>(n - k) * std::log(static_cast<float>(right));
    if (value < bestValue) bestValue = value, best = from + k;
  }
  return best;
}

std::int64_t localiseAttack(std::span<const float> samples, int rate, std::int64_t coarse, std::int64_t earliest) {
  const auto ms = [&](double x) { return static_cast<std::int64_t>(x * rate / 1000.0); };
  const auto first = pickVarianceChange(samples, std::max(earliest, coarse - ms(18)), coarse + ms(5), kBodyFloor);
  return refineAttack(samples, rate, first, earliest);
}

std::int64_t refineAttack(std::span<const float> samples, int rate, std::int64_t near, std::int64_t earliest) {
  const auto ms = [&](double x) { return static_cast<std::int64_t>(x * rate / 1000.0); };
  // Ends shortly after the first pick, so that the loud body no longer outweighs a gentle beginning.
  return pickVarianceChange(samples, std::max(earliest, near - ms(1.5)), near + ms(1.0), kBeginFloor);
}

std::int64_t placeByBody(std::span<const float> samples, int rate, std::int64_t at) {
  const auto ms = [&](double x) { return static_cast<std::int64_t>(x * rate / 1000.0); };
  // Two one-pole low-passes, whose delay is taken off again.
  const auto a = static_cast<float>(1.0 - std::exp(-2 * std::numbers::pi * kBodyHz / rate));
  const auto delay = static_cast<std::int64_t>(std::lround(2 * (1.0 - a) / a));
  const auto first = std::max<std::int64_t>(0, at - ms(30));
  const auto last = std::min<std::int64_t>(std::ssize(samples), at + ms(30));
  std::vector<float> body(samples.begin() + first, samples.begin() + last);
  float y1 = body.empty() ? 0 : body.front();
  float y2 = y1;
  for (auto& s : body) y1 += a * (s - y1), y2 += a * (y1 - y2), s = y2;
  const auto from = std::max<std::int64_t>(0, at - first - ms(8));
  const auto to = std::min<std::int64_t>(std::ssize(body), at - first + ms(12));
  return refineAttack(samples, rate, pickVarianceChange(body, from, to, kWeakFloor) + first - delay, first);
}

}  // namespace ochron

#include "analysis/levels/localise.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "base/units.h"

namespace ochron {
namespace {
constexpr double kBodyFloor = 1e-3;  // bleed reaches -20 to -30 dB; its mean power lies lower still
constexpr double kWeakFloor = 3e-3;  // of a weak stroke's body
constexpr double kBodyHz = 900;
constexpr double kBoomHz = 500;              // what rings on lies below
constexpr float kBeginShare = 0.08F;         // of its peak: 22 dB down a drum's body has begun
constexpr float kOverBefore = 2;             // and it is this much louder than what was there
constexpr std::ptrdiff_t kBlocksBefore = 5;  // ms
constexpr double kBeginFloor = 1e-7;         // keeps digital silence from deciding alone
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
    if (value < bestValue) {
      bestValue = value;
      best = from + k;
    }
  }
  return best;
}

std::int64_t localiseAttack(std::span<const float> samples, int rate, std::int64_t coarse, std::int64_t earliest) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  const auto first = pickVarianceChange(samples, std::max(earliest, coarse - ms(18)), coarse + ms(5), kBodyFloor);
  return refineAttack(samples, rate, first, earliest);
}

std::int64_t refineAttack(std::span<const float> samples, int rate, std::int64_t near, std::int64_t earliest) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  // Ends shortly after the first pick, so that the loud body no longer outweighs a gentle beginning.
  return pickVarianceChange(samples, std::max(earliest, near - ms(1.5)), near + ms(1.0), kBeginFloor);
}

namespace {

/// What lies below 900 Hz, its delay taken off.
struct Body {
  Body(std::span<const float> samples, int rate, std::int64_t from, std::int64_t to) {
    // Two one-pole low-passes.
    const auto a = static_cast<float>(1.0 - std::exp(-2 * std::numbers::pi * kBodyHz / rate));
    const auto delay = static_cast<std::int64_t>(std::lround(2 * (1.0 - a) / a));
    first = std::clamp<std::int64_t>(from + delay, 0, std::ssize(samples)) - delay;
    const auto begin = std::max<std::int64_t>(0, first + delay);
    const auto end = std::clamp<std::int64_t>(to + delay, begin, std::ssize(samples));
    sound.assign(samples.begin() + begin, samples.begin() + end);
    float y1 = sound.empty() ? 0 : sound.front();
    float y2 = y1;
    for (auto& s : sound) {
      y1 += a * (s - y1);
      y2 += a * (y1 - y2);
      s = y2;
    }
  }
  std::vector<float> sound;
  std::int64_t first = 0;  ///< frame of the recording that its first sample stands for
};

}  // namespace

namespace {

/// By what factor the power of a body rises at a place, from the 3 ms before it to the 2 ms after, without what booms.
double riseOf(const Body& body, int rate, std::int64_t place) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  const auto slow = static_cast<float>(1.0 - std::exp(-2 * std::numbers::pi * kBoomHz / rate));
  const auto at = place - body.first;
  float boom = body.sound.empty() ? 0 : body.sound.front();
  double before = 0, after = 0;
  for (std::int64_t i = 0; i < std::min(at + ms(2), std::ssize(body.sound)); ++i) {
    const float s = body.sound[static_cast<std::size_t>(i)];
    boom += slow * (s - boom);
    const double power = (s - boom) * (s - boom);
    if (i >= at)
      after += power;
    else if (i >= at - ms(3) && i < at - ms(0.3))
      before += power;
  }
  constexpr double kAsLong = 2.7 / 2;
  return kAsLong * after / std::max(before, kBeginFloor * after + 1e-14);
}

}  // namespace

double bodyRise(std::span<const float> samples, int rate, std::int64_t at) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  return riseOf(Body(samples, rate, at - ms(30), at + ms(2)), rate, at);
}

std::int64_t placeByBody(std::span<const float> samples, int rate, std::int64_t at) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  const Body body(samples, rate, at - ms(30), at + ms(30));
  const auto first = pickVarianceChange(body.sound, at - body.first - ms(8), at - body.first + ms(12), kWeakFloor);
  const auto place = refineAttack(samples, rate, first + body.first, body.first);
  return riseOf(body, rate, place) >= kBodyBegins ? place : at;
}

std::int64_t beginOfBody(std::span<const float> samples, int rate, std::int64_t at) {
  const auto ms = [&](double x) { return framesFromMs(x, rate).value; };
  const Body body(samples, rate, at - ms(10), at + ms(14));
  const auto block = std::max<std::int64_t>(1, ms(1));
  std::vector<float> peaks;
  for (std::int64_t i = 0; i + block <= std::ssize(body.sound); i += block) {
    float peak = 0;
    for (auto k = i; k < i + block; ++k) peak = std::max(peak, std::abs(body.sound[static_cast<std::size_t>(k)]));
    peaks.push_back(peak);
  }
  if (peaks.size() <= kBlocksBefore) return at;
  std::vector<float> before(peaks.begin(), peaks.begin() + kBlocksBefore);
  std::nth_element(before.begin(), before.begin() + kBlocksBefore / 2, before.end());
  const auto highest = std::max_element(peaks.begin(), peaks.end());
  const float least = std::max(*highest * kBeginShare, before[kBlocksBefore / 2] * kOverBefore);
  auto n = highest - peaks.begin();
  while (n > 0 && peaks[static_cast<std::size_t>(n - 1)] >= least) --n;
  for (auto k = n * block; k < (n + 1) * block; ++k)
    if (std::abs(body.sound[static_cast<std::size_t>(k)]) >= least) return body.first + k;
  return body.first + n * block;
}

}  // namespace ochron

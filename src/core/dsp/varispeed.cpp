#include "dsp/varispeed.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace ochron {
namespace {

constexpr int kHalf = 24;           // zero crossings to each side
constexpr int kSteps = 512;         // table entries between two of them
constexpr double kCutoff = 0.94;    // of Nyquist: leaves room for the transition band
constexpr double kKaiserBeta = 10;  // side lobes below -100 dB

double bessel0(double x) {
  double sum = 1;
  double term = 1;
  for (int k = 1; k < 40; ++k) {
    term *= x / (2 * k) * (x / (2 * k));
    sum += term;
  }
  return sum;
}

std::vector<float> makeTable() {
  std::vector<float> table(static_cast<std::size_t>(kHalf * kSteps + 2), 0.0f);
  for (int i = 0; i <= kHalf * kSteps; ++i) {
    const double x = static_cast<double>(i) / kSteps;
    const double a = std::numbers::pi * kCutoff * x;
    const double sinc = i == 0 ? kCutoff : kCutoff * std::sin(a) / a;
    const double w = x / kHalf;
    table[static_cast<std::size_t>(i)] =
        static_cast<float>(sinc * bessel0(kKaiserBeta * std::sqrt(std::max(0.0, 1 - w * w))) / bessel0(kKaiserBeta));
  }
  return table;
}

const std::vector<float>& table() noexcept {
  static const std::vector<float> made = makeTable();
  return made;
}

}  // namespace

void prepareSpeedReading() { (void)table(); }

std::int64_t speedReach(double speed) noexcept {
  return static_cast<std::int64_t>(std::ceil(kHalf * std::max(1.0, std::abs(speed)))) + 1;
}

float speedRead(const SpeedSource& source, double index, double speed) noexcept {
  const double wide = std::max(1.0, std::abs(speed));
  const auto first = std::max<std::int64_t>(0, static_cast<std::int64_t>(std::ceil(index - kHalf * wide)));
  const auto last =
      std::min<std::int64_t>(source.count - 1, static_cast<std::int64_t>(std::floor(index + kHalf * wide)));
  const auto& kernel = table();
  const double scale = kSteps / wide;
  double sum = 0;
  for (auto i = first; i <= last; ++i) {
    const double x = std::abs(index - static_cast<double>(i)) * scale;
    const auto at = static_cast<std::size_t>(x);
    if (at >= kernel.size() - 1) continue;
    const auto rest = static_cast<float>(x - static_cast<double>(at));
    sum += source.samples[i * source.step] * (kernel[at] + (kernel[at + 1] - kernel[at]) * rest);
  }
  return static_cast<float>(sum / wide);
}

}  // namespace ochron

// Energies of bands against filters worked out one by one.

#include "analysis/levels/band_energy.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

namespace ochron {
namespace {

/// Butterworth of second order, direct form I.
std::vector<double> filtered(const std::vector<double>& x, double hz, int rate, bool high) {
  const double w = 2 * std::numbers::pi * hz / rate;
  const double alpha = std::sin(w) / std::numbers::sqrt2;
  const double c = std::cos(w);
  const double a0 = 1 + alpha;
  const double b0 = (high ? 1 + c : 1 - c) / 2 / a0;
  const double b1 = (high ? -2 : 2) * b0;
  std::vector<double> y(x.size(), 0.0);
  for (std::size_t i = 0; i < x.size(); ++i) {
    const auto at = [i](const std::vector<double>& v, std::size_t back) { return i >= back ? v[i - back] : 0.0; };
    y[i] = b0 * x[i] + b1 * at(x, 1) + b0 * at(x, 2) + 2 * c / a0 * at(y, 1) - (1 - alpha) / a0 * at(y, 2);
  }
  return y;
}

class Bands : public ::testing::TestWithParam<int> {};

TEST_P(Bands, HoldThePowerOfTheirFilters) {
  const int rate = GetParam();
  std::mt19937 dice(11);
  std::normal_distribution<float> noise(0, 0.2F);
  std::vector<float> x(static_cast<std::size_t>(rate) * 2 + 7);
  for (std::size_t i = 0; i < x.size(); ++i) x[i] = noise(dice) * (i / 9'000 % 2 == 0 ? 1.0F : 0.01F);
  Progress progress;
  const BandEnergy energy(x, rate, progress, 0, 1);
  EXPECT_EQ(energy.steps(), static_cast<std::int64_t>(std::ceil(static_cast<double>(x.size()) * 4000 / rate)));
  for (std::size_t b = 0; b < BandEnergy::kBands; ++b) {
    const double top = std::min(BandEnergy::kEdgesHz[b + 1], 0.45 * rate);
    const auto y = filtered(filtered({x.begin(), x.end()}, BandEnergy::kEdgesHz[b], rate, true), top, rate, false);
    for (std::int64_t step = 3; step + 900 < energy.steps(); step += 877) {
      const auto first = static_cast<std::size_t>(std::ceil(static_cast<double>(step) * rate / 4000 - 1e-9));
      const auto last = static_cast<std::size_t>(std::ceil(static_cast<double>(step + 40) * rate / 4000 - 1e-9));
      double sum = 0;
      for (auto i = first; i < last; ++i) sum += y[i] * y[i];
      const double mean = sum / static_cast<double>(last - first);
      // Steps of unlike lengths weigh alike.
      EXPECT_NEAR(energy.mean(b, step, step + 40) / mean, 1, rate % 4000 == 0 ? 1e-6 : 0.03) << b << " at " << step;
    }
  }
}
INSTANTIATE_TEST_SUITE_P(Rates, Bands, ::testing::Values(44'100, 48'000, 96'000));

TEST(BandEnergy, ACancelEndsItEarly) {
  const std::vector<float> x(48'000 * 30, 0.1F);
  Progress progress;
  progress.cancel();
  const BandEnergy energy(x, 48'000, progress, 0, 1);
  EXPECT_EQ(energy.steps(), 0);
}

}  // namespace
}  // namespace ochron

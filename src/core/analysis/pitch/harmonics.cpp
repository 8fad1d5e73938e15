#include "analysis/pitch/harmonics.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <vector>

#include "base/numbers.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kLowPeriods = 4;
constexpr int kHarmonics = 4;
constexpr double kNothing = 1e-12;

double powerAt(const std::vector<float>& sound, double turnsASample) {
  const auto step = std::polar(1.0, -2 * std::numbers::pi * turnsASample);
  std::complex<double> turn = 1;
  std::complex<double> sum = 0;
  for (const float s : sound) {
    sum += static_cast<double>(s) * turn;
    turn *= step;
  }
  return std::norm(sum);
}

}  // namespace

OddHarmonics oddHarmonics(std::span<const float> samples, int rate, std::int64_t centre, double fundamental) {
  const auto size = static_cast<int>(kLowPeriods * rate / fundamental);
  const auto window = hannWindow(size, 0.5);
  std::vector<float> sound(window.size(), 0.0F);
  const auto first = centre - size / 2;
  for (int i = 0; i < size; ++i)
    if (const auto k = first + i; k >= 0 && k < std::ssize(samples))
      sound[static_cast<std::size_t>(i)] = samples[static_cast<std::size_t>(k)] * window[static_cast<std::size_t>(i)];
  const auto at = [&](double harmonic) { return powerAt(sound, harmonic * fundamental / rate); };
  double own = kNothing;
  double odd = 0;
  double below = 0;
  double above = 0;
  for (int k = 0; k < kHarmonics; ++k) {
    own += at(2.0 * k + 2);
    odd += at(2.0 * k + 1);
    below += at(2.0 * k + 0.5);
    above += at(2.0 * k + 1.5);
  }
  return {decibelsOf(odd / own + kNothing), decibelsOf(std::max(below, above) / own + kNothing)};
}

}  // namespace ochron

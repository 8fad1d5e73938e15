// Fourier transform, resampling and fades: known truth.
#include <gtest/gtest.h>

#include <cmath>
#include <complex>
#include <random>

#include "dsp/fade.h"
#include "dsp/fft.h"

namespace ochron {
namespace {

TEST(Fft, IsTheTransformOfItsDefinitionAndBack) {
  std::mt19937 dice(2);
  std::normal_distribution<float> noise;
  for (const int size : {16, 64, 256}) {
    RealFft fft(size);
    std::vector<float> in(static_cast<std::size_t>(size));
    for (auto& s : in) s = noise(dice);
    std::copy(in.begin(), in.end(), fft.time().begin());
    fft.forward();
    for (int k = 0; k <= size / 2; ++k) {
      std::complex<double> sum;
      for (int i = 0; i < size; ++i)
        sum += static_cast<double>(in[static_cast<std::size_t>(i)]) * std::polar(1.0, -2 * M_PI * k * i / size);
      ASSERT_NEAR(std::abs(sum - std::complex<double>(fft.bins()[static_cast<std::size_t>(k)])), 0, 1e-3)
          << size << " bin " << k;
    }
    fft.inverse();
    for (std::size_t i = 0; i < in.size(); ++i)
      ASSERT_NEAR(fft.time()[i], in[i] * static_cast<float>(size), 1e-3 * size);
  }
}

TEST(FadeGain, RisesFromZeroToOneWhateverTheShapeAndBend) {
  for (const auto shape : {FadeShape::line, FadeShape::sCurve})
    for (const double bend : {-1.0, -0.4, 0.0, 0.7, 1.0}) {
      float before = -1e-6F;
      for (int i = 0; i <= 200; ++i) {
        const float g = fadeGain(shape, bend, i / 200.0);
        ASSERT_GE(g, before - 1e-5F) << static_cast<int>(shape) << " bend " << bend << " at " << i;
        ASSERT_LE(g, 1 + 1e-5F);
        before = g;
      }
      EXPECT_NEAR(fadeGain(shape, bend, 0), 0, 1e-3);
      EXPECT_NEAR(fadeGain(shape, bend, 1), 1, 1e-4);
    }
}

}  // namespace
}  // namespace ochron

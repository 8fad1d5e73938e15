// Fourier transform, stretching, resampling and fades: known truth.
#include <gtest/gtest.h>

#include <cmath>
#include <complex>
#include <random>

#include "dsp/fade.h"
#include "dsp/fft.h"
#include "dsp/stretch.h"

namespace ochron {
namespace {

std::vector<float> sine(double hz, std::size_t frames, int rate = 48'000) {
  std::vector<float> out(frames);
  for (std::size_t i = 0; i < frames; ++i)
    out[i] = static_cast<float>(0.5 * std::sin(2 * M_PI * hz * static_cast<double>(i) / rate));
  return out;
}

double rms(std::span<const float> x) {
  double sum = 0;
  for (const float s : x) sum += static_cast<double>(s) * s;
  return std::sqrt(sum / static_cast<double>(x.size()));
}

/// Upward zero crossings a second.
double pitchOf(std::span<const float> x, int rate = 48'000) {
  std::size_t first = 0, last = 0, count = 0;
  for (std::size_t i = 1; i < x.size(); ++i)
    if (x[i - 1] < 0 && x[i] >= 0) {
      if (count++ == 0) first = i;
      last = i;
    }
  return static_cast<double>(count - 1) * rate / static_cast<double>(last - first);
}

struct Ratio {
  Stretcher::Material material;
  double ratio;
  std::size_t frames;
};
class Stretching : public ::testing::TestWithParam<Ratio> {};

TEST_P(Stretching, GivesAllFramesAskedForAtTheSamePitchAndLevel) {
  const auto [material, ratio, frames] = GetParam();
  const auto in = sine(440, frames);
  const auto wanted = static_cast<std::size_t>(std::llround(static_cast<double>(frames) * ratio));
  Stretcher stretcher(48'000, 2, material);
  const auto out = stretcher.stretch({in, in}, wanted);
  ASSERT_EQ(out.size(), 2u);
  for (const auto& channel : out) {
    ASSERT_EQ(channel.size(), wanted);
    for (const float s : channel) ASSERT_TRUE(std::isfinite(s));
    if (frames < 10'000) continue;
    const std::span<const float> middle(channel.data() + wanted / 4, wanted / 2);
    EXPECT_NEAR(pitchOf(middle), 440, 4);
    EXPECT_NEAR(20 * std::log10(rms(middle) / rms(in)), 0, 1.5);
    // No silence at the end.
    EXPECT_GT(rms(std::span<const float>(channel.data() + wanted - wanted / 20, wanted / 20)), 0.05);
  }
  EXPECT_EQ(out[0], out[1]) << "channels stay together";
}
INSTANTIATE_TEST_SUITE_P(
    Ratios, Stretching,
    ::testing::Values(Ratio{Stretcher::Material::tone, 0.5, 48'000}, Ratio{Stretcher::Material::tone, 0.97, 48'000},
                      Ratio{Stretcher::Material::tone, 1.0, 48'000}, Ratio{Stretcher::Material::tone, 1.31, 20'000},
                      Ratio{Stretcher::Material::tone, 3.0, 48'000}, Ratio{Stretcher::Material::drums, 0.6, 48'000},
                      Ratio{Stretcher::Material::drums, 1.2, 48'000}, Ratio{Stretcher::Material::drums, 2.5, 30'000},
                      Ratio{Stretcher::Material::tone, 5.0, 40}, Ratio{Stretcher::Material::drums, 4.0, 1},
                      Ratio{Stretcher::Material::tone, 0.5, 700}));

TEST(Stretching, KeysPutFramesWhereTheySay) {
  // A click every 12000 frames; the keys move the second one by 1000 frames.
  std::vector<float> in(48'000, 0.0F);
  for (const std::size_t at : {6000u, 18'000u, 30'000u, 42'000u})
    for (std::size_t i = 0; i < 200; ++i)
      in[at + i] = static_cast<float>(std::exp(-0.02 * static_cast<double>(i)) * (i % 2 ? -0.8 : 0.8));
  Stretcher stretcher(48'000, 1, Stretcher::Material::drums);
  const auto out = stretcher.stretch({in}, 48'000, {{18'000, 19'000}})[0];
  std::size_t loudest = 12'500;
  for (std::size_t i = 12'500; i < 25'000; ++i)
    if (std::abs(out[i]) > std::abs(out[loudest])) loudest = i;
  EXPECT_NEAR(static_cast<double>(loudest), 19'000, 240);
}

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

// Formants moved apart from the pitch, on a made voice whose resonances are known.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "dsp/formants.h"
#include "support/made_voice.h"
#include "support/tones.h"

namespace ochron {
namespace {

constexpr int kRate = 48'000;

MadeVoice voiceAt(double midi, double formants = 1) {
  MadeVoice v;
  v.seconds = 1.5;
  v.notes = {{0.0, 1.5, midi}};
  v.formants[0] = 700 * formants;
  v.formants[1] = 1200 * formants;
  return v;
}

/// Levels in dB of the harmonics up to 3 kHz over the middle second, against the loudest.
std::vector<double> harmonics(const std::vector<float>& x, double hertz) {
  std::vector<double> out;
  for (int h = 1; h * hertz < 3000; ++h) out.push_back(powerAt(std::span(x).subspan(12'000, 48'000), h * hertz, kRate));
  const double most = *std::max_element(out.begin(), out.end());
  for (auto& p : out) p = 10 * std::log10(std::max(p / most, 1e-9));
  return out;
}

double hertzOf(double midi) { return 440 * std::exp2((midi - 69) / 12); }

/// How far the colour of two voices at one pitch differs, dB RMS over the harmonics within 30 dB of the loudest.
double colourOff(const std::vector<float>& a, const std::vector<float>& b, double hertz) {
  const auto x = harmonics(a, hertz);
  const auto y = harmonics(b, hertz);
  double sum = 0;
  int n = 0;
  for (std::size_t i = 0; i < x.size(); ++i)
    if (x[i] > -30) sum += (x[i] - y[i]) * (x[i] - y[i]), ++n;
  return std::sqrt(sum / std::max(1, n));
}

struct Shifted : ::testing::TestWithParam<double> {};

TEST_P(Shifted, AVoiceKeepsItsFormants) {
  constexpr double kMidi = 41;
  const auto recorded = voiceAt(kMidi).samples();
  const double cents = GetParam();
  const double ratio = std::exp2(cents / 1200);
  const auto along = voiceAt(kMidi + cents / 100, ratio).samples();
  const auto held = withFormants(along, recorded, kRate, [&](std::size_t) { return FormantPlace{ratio, 1}; });
  ASSERT_EQ(held.size(), along.size());
  const auto wanted = voiceAt(kMidi + cents / 100).samples();
  const double hertz = hertzOf(kMidi + cents / 100);
  EXPECT_LT(colourOff(wanted, held, hertz), 3.5);
  EXPECT_LT(colourOff(wanted, held, hertz), 0.5 * colourOff(wanted, along, hertz));
}
INSTANTIATE_TEST_SUITE_P(Cents, Shifted, ::testing::Values(-700.0, -400.0, 300.0, 700.0));

TEST(Formants, MoveAloneByWhatIsAsked) {
  const auto recorded = voiceAt(41).samples();
  for (const double cents : {-400.0, 400.0, 600.0}) {
    const double g = std::exp2(cents / 1200);
    const auto moved = withFormants(recorded, recorded, kRate, [&](std::size_t) { return FormantPlace{1, g}; });
    const auto wanted = voiceAt(41, g).samples();
    EXPECT_LT(colourOff(wanted, moved, hertzOf(41)), 0.5 * colourOff(wanted, recorded, hertzOf(41))) << cents;
  }
}

TEST(Formants, StayToRoundingWhereNothingIsAsked) {
  const auto x = voiceAt(52).samples();
  const auto y = withFormants(x, x, kRate, [](std::size_t) { return FormantPlace{}; });
  for (std::size_t i = 0; i < x.size(); ++i) ASSERT_NEAR(x[i], y[i], 1e-6) << i;
}

TEST(Formants, AMicThatHearsTheSameSofterHearsItSofterAfterwards) {
  const auto x = voiceAt(50).samples();
  auto softer = x;
  for (auto& v : softer) v *= 0.125F;
  const auto place = [](std::size_t i) { return FormantPlace{i < 30'000 ? 1.2 : 0.8, 1}; };
  const auto loud = withFormants(x, x, kRate, place);
  const auto soft = withFormants(softer, softer, kRate, place);
  double most = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    ASSERT_NEAR(soft[i], 0.125F * loud[i], 1e-5) << i;
    most = std::max(most, std::abs(static_cast<double>(loud[i]) - x[i]));
  }
  EXPECT_GT(most, 0.01) << "it was changed";
}

TEST(Formants, SilenceStaysSilent) {
  const auto place = [](std::size_t) { return FormantPlace{1.2, 1}; };
  const std::vector<float> silence(20'000, 0.0F);
  EXPECT_EQ(withFormants(silence, silence, kRate, place), silence);
  EXPECT_TRUE(withFormants({}, {}, kRate, place).empty());
}

}  // namespace
}  // namespace ochron

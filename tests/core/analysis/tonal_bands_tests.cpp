// Bands of a quarter tone, and what is new in them.
#include "analysis/levels/tonal_bands.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "analysis/hits/soft_onsets.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::kRate;

/// A tone of eight overtones whose pitch (MIDI note) and level are functions of time.
template <class Pitch, class Level>
std::vector<float> tone(double seconds, Pitch pitch, Level level, int rate = kRate) {
  std::vector<float> out(static_cast<std::size_t>(seconds * rate));
  double phase = 0;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / rate;
    phase += 2 * std::numbers::pi * 440 * std::exp2((pitch(t) - 69) / 12) / rate;
    double v = 0;
    for (int h = 1; h <= 8; ++h) v += std::sin(h * phase) / h;
    out[i] = static_cast<float>(0.2 * level(t) * v);
  }
  return out;
}

const auto steady = [](double) { return 1.0; };

std::vector<double> bowedOnsets(const std::vector<float>& samples, int rate = kRate) {
  std::vector<double> out;
  for (const auto& o : findSoftOnsets(samples, rate, kBowed, kBowed.counts))
    out.push_back(static_cast<double>(o.at) / rate);
  return out;
}

TEST(TonalBands, AToneStandsInItsBandAtEveryRate) {
  for (const int rate : {44'100, 48'000, 96'000}) {
    std::vector<float> sine(static_cast<std::size_t>(rate));
    for (std::size_t i = 0; i < sine.size(); ++i)
      sine[i] = static_cast<float>(std::sin(2 * std::numbers::pi * 960 * static_cast<double>(i) / rate));
    const TonalBands bands(sine, rate, 0.07);
    EXPECT_EQ(bands.bands(), 160u) << rate;
    EXPECT_NEAR(static_cast<double>(bands.count()), 200, 1);
    const auto frame = bands.frame(100);
    const auto highest = std::max_element(frame.begin(), frame.end()) - frame.begin();
    EXPECT_EQ(highest, 96) << "four octaves above 60 Hz, at " << rate;
    EXPECT_NEAR(bands.loud(), frame[96], 0.05 * static_cast<double>(frame[96]));
  }
}

TEST(TonalBands, NothingAndLittleAreNoTrouble) {
  EXPECT_EQ(TonalBands({}, kRate, 0.07).count(), 0);
  const std::vector<float> few(10, 0.1F);
  const TonalBands bands(few, kRate, 0.07);
  EXPECT_EQ(bands.count(), 1);
  for (const float v : bands.frame(0)) EXPECT_TRUE(std::isfinite(v));
  EXPECT_TRUE(findSoftOnsets(std::vector<float>(kRate, 0.0F), kRate, kBowed, 0.02).empty());
}

TEST(SoftOnset, AHeldToneWithVibratoAndSwellingBringsNothingNew) {
  const auto samples = tone(
      6, [](double t) { return 62 + 0.3 * std::sin(2 * std::numbers::pi * 5.2 * t); },
      [](double t) { return std::min(1.0, t / 0.1) * (0.8 + 0.2 * std::sin(2 * std::numbers::pi * 4.6 * t)); });
  for (const double at : bowedOnsets(samples)) EXPECT_LT(at, 0.2) << "only its beginning";
}

TEST(SoftOnset, ALegatoStepIsAnOnsetWhereItIsPlayed) {
  for (const double step : {1.0, 2.0, 7.0}) {
    const auto samples = tone(
        4,
        [&](double t) {
          return 55 + (t < 1 ? 0 : t < 2 ? step : t < 3 ? 0 : -step);
        },
        [](double t) { return std::min(1.0, t / 0.05); });
    const auto found = bowedOnsets(samples);
    for (const double truth : {1.0, 2.0, 3.0})
      EXPECT_TRUE(std::any_of(found.begin(), found.end(), [&](double at) { return std::abs(at - truth) < 0.04; }))
          << step << " semitones at " << truth;
    EXPECT_LE(found.size(), 4u) << step;
  }
}

TEST(SoftOnset, AChordOverAHeldBassNoteIsOne) {
  auto samples = tone(
      3, [](double) { return 40.0; }, steady);
  for (const double note : {64.0, 67.0, 71.0}) {
    const auto chord = tone(
        3, [&](double) { return note; }, [](double t) { return t < 1.5 ? 0.0 : std::min(1.0, (t - 1.5) / 0.06); });
    for (std::size_t i = 0; i < samples.size(); ++i) samples[i] += chord[i];
  }
  const auto found = bowedOnsets(samples);
  EXPECT_EQ(std::count_if(found.begin(), found.end(), [](double at) { return at > 0.3; }), 1);
  EXPECT_NEAR(found.back(), 1.53, 0.06);
}

/// Dark plucked strings: each at a time, a pitch, and how fast it dies away.
struct Pluck {
  double at;
  double hertz;
};
std::vector<float> plucked(double seconds, const std::vector<Pluck>& plucks, double second) {
  std::vector<float> out(static_cast<std::size_t>(seconds * kRate));
  for (const auto& pluck : plucks)
    for (auto i = static_cast<std::size_t>(pluck.at * kRate); i < out.size(); ++i) {
      const double t = static_cast<double>(i) / kRate - pluck.at;
      const double turn = 2 * std::numbers::pi * pluck.hertz * t;
      out[i] += static_cast<float>(0.2 * std::min(1.0, t / 0.004) * std::exp(-1.5 * t) *
                                   (std::sin(turn) + second * std::exp(-6 * t) * std::sin(3 * turn)));
    }
  return out;
}

std::vector<double> struckOnsets(const std::vector<float>& samples, const FreshSettings& settings = kStruck) {
  std::vector<double> out;
  for (const auto& o : findSoftOnsets(samples, kRate, settings, settings.counts))
    out.push_back(static_cast<double>(o.at) / kRate);
  return out;
}

TEST(SoftOnset, LowStringsThatBeatBringNothingNewBetweenTheirStrokes) {
  for (const auto& [one, other] : {std::pair{77.8, 69.3}, std::pair{82.4, 91.9}, std::pair{69.3, 61.7}}) {
    const auto samples = plucked(3, {{0.5, one}, {1.0, other}}, 0.3);
    const auto found = struckOnsets(samples);
    EXPECT_EQ(found.size(), 2U) << one << " and " << other;
    auto deaf = kStruck;
    deaf.beatsBelow = 0;
    EXPECT_GT(struckOnsets(samples, deaf).size(), 2U) << "they do beat";
  }
}

TEST(SoftOnset, ALowStringPluckedAgainOnItsNoteIsHeardEachTime) {
  std::vector<Pluck> plucks;
  for (int i = 0; i < 8; ++i) plucks.push_back({0.5 + 0.3 * i, 55});
  auto samples = plucked(3.2, {}, 0);
  // The finger stops the string shortly before it is plucked again.
  for (const auto& p : plucks) {
    const auto one = plucked(3.2, {p}, 0.8);
    for (std::size_t i = 0; i < one.size(); ++i) {
      const double left = p.at + 0.27 - static_cast<double>(i) / kRate;
      samples[i] += one[i] * static_cast<float>(std::clamp(left / 0.01, 0.0, 1.0));
    }
  }
  const auto found = struckOnsets(samples);
  for (const auto& p : plucks)
    EXPECT_TRUE(std::any_of(found.begin(), found.end(), [&](double at) { return std::abs(at - p.at) < 0.04; })) << p.at;
  EXPECT_LE(found.size(), plucks.size() + 1);
}

TEST(SoftOnset, LoudnessOfTheRecordingDoesNotMatter) {
  const auto samples = tone(
      4, [](double t) { return t < 1   ? 55.0
                               : t < 2 ? 59.0
                               : t < 3 ? 62.0
                                       : 57.0; }, steady);
  const auto full = bowedOnsets(samples);
  for (const float gain : {0.01F, 0.3F, 3.0F}) {
    auto other = samples;
    for (auto& s : other) s *= gain;
    EXPECT_EQ(bowedOnsets(other), full) << gain;
  }
}

}  // namespace
}  // namespace ochron

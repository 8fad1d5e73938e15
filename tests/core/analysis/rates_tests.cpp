// The same sound, two minutes long, at every rate: what is heard of it is the same.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "analysis/drums/onsets.h"
#include "analysis/pitch/pitch.h"
#include "analysis/tempo/tempo.h"
#include "dsp/listening.h"
#include "dsp/resample.h"
#include "support/heard_line.h"
#include "support/made_voice.h"
#include "support/performance.h"

namespace ochron {
namespace {

constexpr double kSeconds = 120;

std::vector<float> atRate(const std::vector<float>& sound, int rate) {
  if (rate == test::kRate) return sound;
  auto resampler = Resampler::make(test::kRate, rate, 1);
  EXPECT_TRUE(resampler);
  std::vector<float> out;
  resampler->push(sound, out);
  resampler->finish(out);
  return out;
}

const std::vector<float>& kit() {
  static const auto sound = [] {
    test::Style style;
    style.bars = static_cast<int>(kSeconds / 2);
    auto out = test::perform(style).mics.back();
    out.resize(static_cast<std::size_t>(kSeconds * test::kRate));
    return out;
  }();
  return sound;
}

const std::vector<float>& voice() {
  static const auto sound = [] {
    MadeVoice v;
    v.seconds = kSeconds;
    v.bend = [](double t) { return 30 * std::sin(2 * M_PI * 5.3 * t); };
    int k = 0;
    for (double at = 0.5; at < kSeconds - 1; at += 0.73, ++k) v.notes.push_back({at, 0.6, 55.0 + (k * 5) % 17});
    return v.samples();
  }();
  return sound;
}

/// Seconds of the hits that count at the default sensitivity.
std::vector<double> hitsOf(const std::vector<float>& sound, int rate) {
  GuideSignal mic;
  mic.samples = sound;
  Progress progress;
  const auto all = detectOnsets({mic}, rate, progress);
  EXPECT_TRUE(all);
  std::vector<double> out;
  for (const auto& o : *all)
    if (std::any_of(o.guides.begin(), o.guides.end(), [](auto& g) { return g.claim >= 0.05; }))
      out.push_back(static_cast<double>(o.at.value) / rate);
  return out;
}

/// The share of `a` that has one of `b` within 0.3 ms.
double shareNear(const std::vector<double>& a, const std::vector<double>& b) {
  std::size_t near = 0;
  for (const double x : a)
    near += std::any_of(b.begin(), b.end(), [&](double y) { return std::abs(x - y) <= 0.0003; }) ? 1U : 0U;
  return a.empty() ? 0 : static_cast<double>(near) / static_cast<double>(a.size());
}

class EveryRate : public ::testing::TestWithParam<int> {};
INSTANTIATE_TEST_SUITE_P(Rates, EveryRate, ::testing::Values(22'050, 32'000, 44'100, 88'200, 96'000, 176'400, 192'000),
                         [](const auto& rate) { return std::to_string(rate.param); });

TEST_P(EveryRate, HitsOfAKitLieWhereTheyDoAt48kHz) {
  static const auto expected = hitsOf(kit(), test::kRate);
  ASSERT_GT(expected.size(), 400U);
  const auto heard = hitsOf(atRate(kit(), GetParam()), GetParam());
  // Below 44.1 kHz the hats' own band is cut off, or not there.
  const double least = GetParam() < 32'000 ? 0.9 : GetParam() < 44'100 ? 0.97 : 0.985;
  EXPECT_GE(shareNear(expected, heard), least);
  EXPECT_GE(shareNear(heard, expected), least);
}

TEST_P(EveryRate, OnsetsOfAVoiceLieWhereTheyDoAt48kHz) {
  static const auto expected = hitsOf(voice(), test::kRate);
  ASSERT_GT(expected.size(), 120U);
  const auto heard = hitsOf(atRate(voice(), GetParam()), GetParam());
  EXPECT_GE(shareNear(expected, heard), 0.98);
  EXPECT_GE(shareNear(heard, expected), 0.98);
}

TEST_P(EveryRate, ThePitchIsTheSameWithinACent) {
  static const auto expected = test::heardPitch(voice());
  const auto sound = atRate(voice(), GetParam());
  const auto listened = Listening::to(sound, GetParam());
  ASSERT_TRUE(listened);
  const auto heard = test::heardPitch(listened->samples());
  ASSERT_GE(heard.values.size(), expected.values.size() - 1);
  std::size_t both = 0;
  std::size_t off = 0;
  for (std::size_t t = 0; t + 1 < expected.values.size(); ++t) {
    if (!expected.values[t].sounds() || !heard.values[t].sounds()) continue;
    ++both;
    off += std::abs(centsOf(expected.values[t].hertz) - centsOf(heard.values[t].hertz)) > 1 ? 1U : 0U;
  }
  EXPECT_GT(both, 15'000U);
  EXPECT_LT(static_cast<double>(off), 0.002 * static_cast<double>(both));
}

TEST_P(EveryRate, TheTempoIsTheSameWithinATenthOfAThousandth) {
  Progress progress;
  const auto expected = hearTempo(kit(), test::kRate, {}, progress);
  const auto heard = hearTempo(atRate(kit(), GetParam()), GetParam(), {}, progress);
  ASSERT_TRUE(expected && heard);
  EXPECT_NEAR(heard->bpm / expected->bpm, 1, 1e-4);
  ASSERT_FALSE(heard->downbeats.empty());
  EXPECT_NEAR(heard->downbeats.back(), expected->downbeats.back(), 0.002);
}

TEST(Listening, AtItsOwnRateIsTheSoundItselfAndElsewhereAsLongInSeconds) {
  const auto& sound = voice();
  const auto own = Listening::to(sound, kListeningRate);
  ASSERT_TRUE(own);
  EXPECT_EQ(own->samples().data(), sound.data());
  for (const int rate : {8'000, 44'100, 192'000}) {
    const std::vector<float> quiet(static_cast<std::size_t>(rate * 3), 0.0F);
    const auto heard = Listening::to(quiet, rate);
    ASSERT_TRUE(heard);
    EXPECT_NEAR(static_cast<double>(heard->samples().size()), 3.0 * kListeningRate, 1);
  }
  for (const std::int64_t at : {0, 1, 44'099, 100'000'007})
    EXPECT_EQ(atRate(atRate(Frames{at}, 44'100, 192'000), 192'000, 44'100), Frames{at});
}

}  // namespace
}  // namespace ochron

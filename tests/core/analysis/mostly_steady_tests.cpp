// One tempo throughout but for places where the beat was lost, and loops that are cut to whole bars.

#include "analysis/tempo/mostly_steady.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "analysis/tempo/tempo.h"
#include "support/drum_pattern.h"

namespace ochron {
namespace {

using test::kPatternRate;
using test::strike;

std::vector<double> beatsAt(double bpm, int count, double jitterMs) {
  std::mt19937 dice(4);
  std::normal_distribution<double> off(0, jitterMs / 1000);
  std::vector<double> out;
  for (int i = 0; i < count; ++i) out.push_back(0.6 + i * 60 / bpm + off(dice));
  return out;
}

TEST(MostlySteady, StretchesOffTheLineDoNotMoveIt) {
  for (const double bpm : {95.0, 135.0, 170.0}) {
    auto beats = beatsAt(bpm, 400, 4);
    for (int i = 100; i < 112; ++i) beats[static_cast<std::size_t>(i)] += 0.11;
    for (int i = 250; i < 256; ++i) beats[static_cast<std::size_t>(i)] -= 0.09;
    const auto line = mostlySteady(beats);
    ASSERT_TRUE(line);
    EXPECT_NEAR(60 / line->step / bpm, 1, 2e-5);
    ASSERT_EQ(line->away.size(), 2U);
    EXPECT_NEAR(line->away[0].from, 0.6 + 100 * 60 / bpm, 0.2);
    EXPECT_NEAR(line->away[1].to, 0.6 + 255 * 60 / bpm, 0.2);
    EXPECT_EQ(line->count, 400U);
  }
}

TEST(MostlySteady, BeatsThatSlippedByHalfAreSetRightByTheMost) {
  auto beats = beatsAt(140, 400, 3);
  for (int i = 280; i < 400; ++i) beats[static_cast<std::size_t>(i)] += 0.5 * 60 / 140;
  const auto line = mostlySteady(beats);
  ASSERT_TRUE(line);
  EXPECT_NEAR(60 / line->step, 140, 0.003);
  EXPECT_NEAR(std::remainder(line->start - 0.6, line->step), 0, 0.01);
}

TEST(MostlySteady, ABreathingTempoIsNone) {
  std::vector<double> beats{0.5};
  for (int i = 1; i < 300; ++i) beats.push_back(beats.back() + 0.5 * (1 + 0.03 * std::sin(i * 0.06)));
  EXPECT_FALSE(mostlySteady(beats));
  EXPECT_FALSE(mostlySteady({0.5, 1.0, 1.5}));
}

/// Rock to a click: kick, snare and hats, some bars of which are fills off the grid.
std::vector<float> songWithFills(double bpm, int bars) {
  const double beat = 60 / bpm;
  std::vector<float> out(static_cast<std::size_t>((bars * 4 * beat + 1.5) * kPatternRate), 0.0F);
  for (int b = 0; b < bars * 4; ++b) {
    const int bar = b / 4;
    const bool fill = bar % 24 == 21 || bar % 24 == 22;
    const double at = 0.7 + b * beat + (fill ? 0.12 + 0.02 * (b % 4) : 0);
    strike(out, at, b % 2 == 0 ? 60 : 0, b % 2 == 0 ? 0.8 : 0.4, b % 2 == 0 ? 0.12 : 0.06);
    for (const double half : {0.0, 0.5}) strike(out, at + half * beat, 0, 0.12, 0.015);
  }
  return out;
}

TEST(Tempo, OfASongWithFillsOffTheGridIsExact) {
  for (const double bpm : {95.0, 135.0, 140.0}) {
    Progress progress;
    const auto heard = hearTempo(songWithFills(bpm, 72), kPatternRate, {}, progress);
    ASSERT_TRUE(heard);
    EXPECT_TRUE(heard->steady);
    EXPECT_NEAR(heard->bpm / bpm, 1, 1e-3);
  }
}

TEST(Tempo, OfOneBarThatIsCutToItsLengthIsToldByTheLength) {
  for (const double bpm : {97.0, 126.0, 136.9}) {
    auto loop = test::pattern("K-h-S-hkK-h-S-h-", 1, 60 / bpm / 4, 0);
    loop.resize(static_cast<std::size_t>(std::llround(4 * 60 / bpm * kPatternRate)));
    Progress progress;
    const auto heard = hearTempo(loop, kPatternRate, {}, progress);
    ASSERT_TRUE(heard) << heard.error().message;
    EXPECT_NEAR(heard->bpm / bpm, 1, 1e-3) << heard->bpm;
    ASSERT_FALSE(heard->beats.empty());
    EXPECT_LT(heard->beats.back(), 4 * 60 / bpm);
  }
}

}  // namespace
}  // namespace ochron

#include "time/tempo_map.h"

#include <gtest/gtest.h>

#include <random>

#include "time/grid.h"

namespace ochron {
namespace {

class FrameTickFrame : public ::testing::TestWithParam<int> {};

TEST_P(FrameTickFrame, IsTheIdentityAfterTenHours) {
  const auto map = *TempoMap::make(
      GetParam(), Frames{1234}, {{Ticks{0}, 97.3, true}, {Ticks{kTicksPerQuarter * 64}, 141.7, false}}, {{0, {4, 4}}});
  std::mt19937_64 dice(5);
  for (int i = 0; i < 20'000; ++i) {
    const Frames f{static_cast<std::int64_t>(dice() % (36'000ull * static_cast<unsigned>(GetParam())))};
    ASSERT_EQ(map.toFrames(map.toTicks(f)), f);
  }
}
INSTANTIATE_TEST_SUITE_P(Rates, FrameTickFrame, ::testing::Values(44'100, 48'000, 96'000));

TEST(TempoMap, SteadyTempoPutsBeatsWhereArithmeticSays) {
  const auto map = *TempoMap::steady(48'000, 120, {4, 4}, Frames{1000});
  EXPECT_EQ(map.toFrames(Ticks{kTicksPerQuarter * 8}), Frames{1000 + 8 * 24'000});
  EXPECT_EQ(map.toFrames(Ticks{-kTicksPerQuarter}), Frames{1000 - 24'000});
}

TEST(TempoMap, RampTakesTheTimeOfItsIntegral) {
  // From 60 to 120 BPM over 60 quarters: 60 * ln(2) seconds.
  const auto map =
      *TempoMap::make(48'000, {}, {{Ticks{0}, 60, true}, {Ticks{60 * kTicksPerQuarter}, 120, false}}, {{0, {}}});
  EXPECT_NEAR(map.secondsFromOrigin(Ticks{60 * kTicksPerQuarter}), 60 * std::log(2.0), 1e-9);
  EXPECT_DOUBLE_EQ(map.bpmAt(Ticks{30 * kTicksPerQuarter}), 90);
}

TEST(TempoMap, IsMonotonicOverRandomEvents) {
  std::mt19937_64 dice(11);
  std::uniform_real_distribution<double> bpm(30, 300);
  for (int round = 0; round < 50; ++round) {
    std::vector<TempoEvent> events;
    events.reserve(20);
    for (int i = 0; i < 20; ++i)
      events.push_back({Ticks{static_cast<std::int64_t>(i * kTicksPerQuarter * 3 + dice() % kTicksPerQuarter)},
                        bpm(dice), dice() % 2 == 0});
    const auto map = *TempoMap::make(48'000, {}, events, {{0, {}}});
    Frames before = map.toFrames(Ticks{-kTicksPerQuarter});
    for (std::int64_t t = 0; t < 70 * kTicksPerQuarter; t += kTicksPerQuarter / 7) {
      const auto f = map.toFrames(Ticks{t});
      ASSERT_GT(f, before);
      before = f;
    }
  }
}

TEST(TempoMap, BarsFollowMeterChanges) {
  const auto map = *TempoMap::make(48'000, {}, {{}}, {{0, {4, 4}}, {2, {7, 8}}, {4, {3, 4}}});
  EXPECT_EQ(map.barStart(2), Ticks{8 * kTicksPerQuarter});
  EXPECT_EQ(map.barStart(4), Ticks{15 * kTicksPerQuarter});
  EXPECT_EQ(map.barAt(Ticks{15 * kTicksPerQuarter - 1}), 3);
  const auto p = map.position(Ticks{8 * kTicksPerQuarter + kTicksPerQuarter / 2 * 5 + 7});
  EXPECT_EQ(p.bar, 2);
  EXPECT_EQ(p.beat, 5);
  EXPECT_EQ(p.rest, Ticks{7});
  EXPECT_EQ(map.barAt(Ticks{-1}), -1);
}

TEST(TempoMap, RefusesWhatCannotBe) {
  EXPECT_FALSE(TempoMap::steady(48'000, 0));
  EXPECT_FALSE(TempoMap::steady(48'000, std::nan("")));
  EXPECT_FALSE(TempoMap::steady(48'000, 120, {4, 3}));
  EXPECT_FALSE(TempoMap::make(48'000, {}, {}, {{0, {}}}));
  EXPECT_FALSE(TempoMap::make(48'000, {}, {{}, {}}, {{0, {}}}));
}

TEST(Grid, SwingMovesTheSecondLineOfEachPair) {
  const auto map = *TempoMap::steady(48'000, 120);
  const auto lines = gridLines(map, {8, StepKind::straight, 62}, Ticks{0}, map.barStart(1));
  ASSERT_EQ(lines.size(), 8u);
  EXPECT_EQ(lines[0].frame, Frames{0});
  EXPECT_EQ(lines[1].frame, Frames{static_cast<std::int64_t>(24'000 * 0.62)});
  EXPECT_EQ(lines[2].frame, Frames{24'000});
}

TEST(Grid, StartsAnewAtEveryBarOfAnOddMeter) {
  const auto map = *TempoMap::make(48'000, {}, {{}}, {{0, {7, 8}}});
  const auto lines = gridLines(map, {4, StepKind::straight, 50}, Ticks{0}, map.barStart(2));
  ASSERT_EQ(lines.size(), 8u);
  EXPECT_EQ(lines[4].at, map.barStart(1));
  EXPECT_EQ(lines[4].place, 0);
}

TEST(Grid, TripletsAndDotsAreWholeTicks) {
  EXPECT_EQ((Grid{64, StepKind::triplet, 50}.step() * 3), (Grid{64, StepKind::straight, 50}.step() * 2));
  EXPECT_EQ((Grid{64, StepKind::dotted, 50}.step() * 2), (Grid{64, StepKind::straight, 50}.step() * 3));
}

TEST(Grid, TextRoundTripsAndNonsenseIsRefused) {
  for (const char* t : {"1/1", "1/16", "1/8t", "1/4d"}) EXPECT_EQ(toText(*parseGrid(t)), t);
  for (const char* t : {"", "1/3", "2/4", "1/128", "1/16x", "sixteen"}) EXPECT_FALSE(parseGrid(t)) << t;
}

TEST(TempoMap, TheFrameOfABarLineLiesInItsBarAtEveryTempoAndRate) {
  std::mt19937 dice(3);
  for (const int rate : {22'050, 44'100, 48'000, 88'200, 96'000, 192'000})
    for (int i = 0; i < 200; ++i) {
      const double bpm = 30 + static_cast<double>(dice() % 27'000) / 100;
      const auto map = *TempoMap::steady(rate, bpm, {3 + i % 5, 4}, Frames{static_cast<std::int64_t>(dice() % 50'000)});
      for (int bar = -3; bar < 60; ++bar) {
        const auto line = map.toFrames(map.barStart(bar));
        ASSERT_EQ(map.barAt(line), bar) << bpm << " BPM at " << rate;
        ASSERT_EQ(map.barAt(line - Frames{1}), bar - 1) << bpm << " BPM at " << rate;
        const auto beat = map.toFrames(map.barStart(bar) + map.meterOfBar(bar).beatLength() * 2);
        const auto at = map.position(beat);
        ASSERT_TRUE(at.bar == bar && at.beat == 2) << bpm << " BPM at " << rate;
        ASSERT_GE(at.rest, Ticks{});
      }
    }
}

}  // namespace
}  // namespace ochron

#include "song/take_map.h"

#include <gtest/gtest.h>

#include <random>

#include "song/clip.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;

const TakeMap kMap({{f(1000), f(1000)}, {f(2000), f(2700)}, {f(5000), f(5200)}, {f(5100), f(6000)}});

TEST(TakeMap, WithoutPinsStretchedTimeIsTakeTime) {
  const TakeMap none;
  EXPECT_TRUE(none.identity());
  EXPECT_TRUE(none.valid());
  for (const auto at : {-5, 0, 77}) {
    EXPECT_EQ(none.stretched(f(at)), f(at));
    EXPECT_EQ(none.take(f(at)), f(at));
  }
}

TEST(TakeMap, IsExactAtItsPinsAndRunsAtSpeedOneOutside) {
  for (const auto& p : kMap.pins()) {
    EXPECT_EQ(kMap.stretched(p.take), p.stretched);
    EXPECT_EQ(kMap.take(p.stretched), p.take);
  }
  EXPECT_EQ(kMap.stretched(f(-300)), f(-300));
  EXPECT_EQ(kMap.stretched(f(5600)), f(6500));
  EXPECT_EQ(kMap.take(f(6500)), f(5600));
}

TEST(TakeMap, RisesAndIsItsOwnInverseToAFrameOfTheCoarserSide) {
  Frames before = kMap.stretched(f(-10));
  for (int t = -9; t < 7000; ++t) {
    const auto s = kMap.stretched(f(t));
    ASSERT_GE(s, before) << t;
    before = s;
    ASSERT_LE(std::abs((kMap.take(s) - f(t)).value), 1) << t;
  }
}

TEST(TakeMap, PiecesCoverAnyRangeWithoutHolesAndFollowTheMap) {
  std::mt19937_64 dice(3);
  for (int round = 0; round < 300; ++round) {
    const auto start = f(static_cast<std::int64_t>(dice() % 8000) - 500);
    const FrameRange range{start, start + f(1 + static_cast<std::int64_t>(dice() % 4000))};
    auto at = range.start;
    for (const auto& p : kMap.pieces(range)) {
      ASSERT_EQ(p.range.start, at);
      ASSERT_FALSE(p.range.empty());
      ASSERT_EQ(p.take, kMap.take(p.range.start));
      const auto last = static_cast<double>(p.take.value) + p.speed * static_cast<double>(p.range.length().value - 1);
      ASSERT_NEAR(last, static_cast<double>(kMap.take(p.range.end - f(1)).value), 1.01);
      at = p.range.end;
    }
    ASSERT_EQ(at, range.end);
  }
}

TEST(TakeMap, OnePinOrPinsThatDoNotRiseAreNoMap) {
  EXPECT_TRUE(kMap.valid());
  EXPECT_FALSE(TakeMap({{f(1), f(1)}}).valid());
  EXPECT_FALSE(TakeMap({{f(1), f(1)}, {f(1), f(5)}}).valid());
  EXPECT_FALSE(TakeMap({{f(1), f(5)}, {f(3), f(5)}}).valid());
  EXPECT_FALSE(TakeMap({{f(3), f(1)}, {f(1), f(5)}}).valid());
}

TEST(StretchedClip, PlacesOfTheTakeAreFoundBackWhicheverWayItRuns) {
  Clip c;
  c.start = f(10'000), c.source = f(1500), c.length = f(4000), c.map = kMap;
  for (const bool reversed : {false, true}) {
    c.reversed = reversed;
    for (std::int64_t at = c.start.value; at < c.end().value; at += 7) {
      const auto take = c.toTake(f(at));
      ASSERT_TRUE(take >= c.played().start && take <= c.played().end) << at;
      ASSERT_LE(std::abs((c.toSong(take) - f(at)).value), 9) << at;  // the densest stretch: 900 frames of song for 100
    }
    auto at = c.start;
    for (const auto& p : c.pieces()) {
      ASSERT_EQ(p.range.start, at);
      ASSERT_EQ(p.take, c.toTake(p.range.start));
      ASSERT_EQ(p.speed < 0, reversed);
      at = p.range.end;
    }
    ASSERT_EQ(at, c.end());
  }
}

TEST(StretchedClip, ShownOverMoreOfTheSongKeepsItsSoundWhereItIs) {
  Clip c;
  c.start = f(10'000), c.source = f(1500), c.length = f(2000), c.map = kMap;
  for (const bool reversed : {false, true}) {
    c.reversed = reversed;
    const auto grown = shownOver(c, {c.start - f(300), c.end() + f(500)});
    for (std::int64_t at = c.start.value; at < c.end().value; at += 5) ASSERT_EQ(grown.toTake(f(at)), c.toTake(f(at)));
    EXPECT_EQ(grown.handleBefore(f(9000)), c.handleBefore(f(9000)) - f(300));
    EXPECT_EQ(grown.handleAfter(f(9000)), c.handleAfter(f(9000)) - f(500));
  }
}

}  // namespace
}  // namespace ochron

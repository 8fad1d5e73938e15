// Meters set from a bar on or for one bar: bar lines move, nothing that sounds does.

#include <gtest/gtest.h>

#include <random>

#include "edits/anchor_edits.h"
#include "edits/tempo_edits.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

Song evenBars() { return test::songOf(*TempoMap::steady(48'000, 100), {std::vector<float>(48'000 * 10)}, {}).song; }

TEST(Meters, FromABarOnTheyHoldToTheEnd) {
  const auto song = setMeter(evenBars(), 2, {3, 4}, false);
  ASSERT_TRUE(song);
  EXPECT_EQ(song->tempo.barStart(2), Ticks{8 * kTicksPerQuarter});
  EXPECT_EQ(song->tempo.barStart(4), Ticks{14 * kTicksPerQuarter});
  EXPECT_EQ(song->tempo.meterOfBar(1), (Meter{4, 4}));
  EXPECT_EQ(song->tempo.meterOfBar(9), (Meter{3, 4}));
}

TEST(Meters, OneBarAloneIsAHalfBarOrAPickUp) {
  const auto half = setMeter(evenBars(), 3, {2, 4}, true);
  ASSERT_TRUE(half);
  EXPECT_EQ(half->tempo.barStart(4) - half->tempo.barStart(3), Ticks{2 * kTicksPerQuarter});
  EXPECT_EQ(half->tempo.barStart(5) - half->tempo.barStart(4), Ticks{4 * kTicksPerQuarter});
  const auto pickUp = setMeter(evenBars(), 0, {1, 4}, true);
  EXPECT_EQ(pickUp->tempo.barStart(1), Ticks{kTicksPerQuarter});
  EXPECT_EQ(pickUp->tempo.barStart(2), Ticks{5 * kTicksPerQuarter});
}

TEST(Meters, SetBackTheSongIsTheSameAgain) {
  const auto song = evenBars();
  EXPECT_EQ(*setMeter(*setMeter(song, 3, {2, 4}, true), 3, {4, 4}, true), song);
  EXPECT_EQ(*setMeter(*setMeter(song, 3, {7, 8}, false), 3, {4, 4}, false), song);
}

TEST(Meters, FromABarOnThatHadOneAloneItHoldsOnAndLaterChangesStay) {
  auto song = *setMeter(evenBars(), 6, {6, 8}, false);
  song = *setMeter(*setMeter(song, 3, {2, 4}, true), 3, {3, 4}, false);
  EXPECT_EQ(song.tempo.meterOfBar(3), (Meter{3, 4}));
  EXPECT_EQ(song.tempo.meterOfBar(5), (Meter{3, 4}));
  EXPECT_EQ(song.tempo.meterOfBar(6), (Meter{6, 8}));
}

TEST(Meters, WhatIsNoMeterIsRefused) {
  for (const Meter m : {Meter{0, 4}, Meter{4, 3}, Meter{65, 4}, Meter{4, 128}, Meter{-1, 4}})
    EXPECT_FALSE(setMeter(evenBars(), 1, m, false)) << m.beats << "/" << m.unit;
}

TEST(Meters, AnyChangesLeaveEverythingWhereItSounds) {
  std::mt19937 dice(5);
  const auto roll = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(dice); };
  auto song = *setAnchor(evenBars(), Ticks{8 * kTicksPerQuarter}, Frames{48'000 * 5});
  const auto before = song;
  constexpr std::array kUnits{2, 4, 8, 16};
  for (int i = 0; i < 200; ++i) {
    const auto next = setMeter(song, roll(12), {1 + roll(13), kUnits[static_cast<std::size_t>(roll(4))]}, roll(2) == 0);
    ASSERT_TRUE(next);
    song = *next;
    ASSERT_TRUE(brokenRules(song).empty()) << brokenRules(song).front();
    EXPECT_EQ(song.sets.front().clips, before.sets.front().clips);
    EXPECT_EQ(song.anchors, before.anchors);
    for (int beat = 0; beat < 40; ++beat)
      EXPECT_EQ(song.tempo.toFrames(Ticks{beat * kTicksPerQuarter}),
                before.tempo.toFrames(Ticks{beat * kTicksPerQuarter}));
    const auto& meters = song.tempo.meters();
    for (std::size_t k = 1; k < meters.size(); ++k) {
      EXPECT_LT(meters[k - 1].bar, meters[k].bar);
      EXPECT_NE(meters[k - 1].meter, meters[k].meter);
    }
  }
}

}  // namespace
}  // namespace ochron

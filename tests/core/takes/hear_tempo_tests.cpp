// What was heard of a recording as a tempo map, and what is quantized on it.

#include "takes/hear_tempo.h"

#include <gtest/gtest.h>

#include <cmath>

#include "support/song_maker.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

TEST(HeardMap, ASteadyTempoIsOneTempoFromItsFirstDownbeat) {
  HeardTempo heard;
  heard.bpm = 97.25;
  heard.steady = true;
  heard.beats = {0.5, 1.117, 1.734, 2.351};
  heard.downbeats = {0.5};
  const auto map = tempoMapOf(heard, 48'000);
  ASSERT_TRUE(map);
  EXPECT_EQ(map->tempos().size(), 1u);
  EXPECT_DOUBLE_EQ(map->bpmAt(Ticks{0}), 97.25);
  EXPECT_EQ(map->origin(), Frames{24'000});
}

TEST(HeardMap, TheBeatOfSixEightIsADottedQuarter) {
  HeardTempo heard;
  heard.bpm = 80;
  heard.meter = {6, 8};
  heard.steady = true;
  heard.beats = {0.5, 1.25, 2.0, 2.75};
  heard.downbeats = {0.5, 2.0};
  const auto map = tempoMapOf(heard, 48'000);
  ASSERT_TRUE(map);
  EXPECT_DOUBLE_EQ(map->bpmAt(Ticks{0}), 120);
  EXPECT_EQ(map->toFrames(map->barStart(1)), Frames{96'000});
  // Written in another meter by hand, a bar still lasts as long as its beats.
  heard.meter = {4, 4};
  const auto asked = tempoMapOf(heard, 48'000, Meter{6, 8});
  ASSERT_TRUE(asked);
  EXPECT_EQ(asked->toFrames(asked->barStart(1)), Frames{96'000});
}

TEST(HeardMap, BarsOfAnotherLengthHaveTheirMeterAndKeepTheirPlaces) {
  HeardTempo heard;
  heard.bpm = 120;
  heard.changes = {{2, {2, 4}}, {3, {4, 4}}, {5, {3, 4}}};
  heard.downbeats = {1, 3, 5, 6, 8, 10, 11.5, 13};
  EXPECT_EQ(metersText(heard), "4/4 (bar 3: 2/4, bars 6 to 8: 3/4)");
  for (const bool steady : {true, false}) {
    heard.steady = steady;
    const auto map = tempoMapOf(heard, 48'000);
    ASSERT_TRUE(map);
    EXPECT_EQ(map->meters().size(), 4u);
    for (std::size_t i = 0; i < heard.downbeats.size(); ++i)
      EXPECT_NEAR(static_cast<double>(map->toFrames(map->barStart(static_cast<int>(i))).value) / 48'000,
                  heard.downbeats[i], 1e-4);
  }
  // A meter that was typed is the song's throughout.
  EXPECT_EQ(tempoMapOf(heard, 48'000, Meter{4, 4})->meters().size(), 1u);
}

TEST(HeardMap, AWanderingOneBeginsEveryBarWhereItWasHeardTo) {
  HeardTempo heard;
  heard.bpm = 100;
  double at = 0.7;
  for (int bar = 0; bar < 40; ++bar) {
    heard.downbeats.push_back(at);
    at += 2.4 + 0.2 * std::sin(bar / 5.0);
  }
  for (const Meter meter : {Meter{3, 4}, Meter{4, 4}, Meter{7, 8}, Meter{6, 8}}) {
    heard.meter = meter;
    const auto map = tempoMapOf(heard, 44'100);
    ASSERT_TRUE(map);
    for (int bar = 0; bar < 40; ++bar)
      EXPECT_NEAR(static_cast<double>(map->toFrames(map->barStart(bar)).value) / 44'100,
                  heard.downbeats[static_cast<std::size_t>(bar)], 0.0005)
          << bar;
  }
}

TEST(HeardMap, TheMadeUpPerformancesTempoIsHeardThroughAllItsMics) {
  test::Style style;
  style.bars = 16;
  style.bpm = 104;
  const auto performance = test::perform(style);
  const auto made = test::songOf(performance);
  const auto mix = mixOf(made.song, *made.song.find(made.set), made.take, made.pool);
  Progress progress;
  const auto heard = hearTempo(mix, made.song.rate, {}, progress);
  ASSERT_TRUE(heard) << heard.error().message;
  EXPECT_NEAR(heard->bpm, 104, 0.3);
  const auto map = tempoMapOf(*heard, made.song.rate);
  ASSERT_TRUE(map);
  // Bar 1 lies on a beat that was played.
  const auto beats = static_cast<double>(performance.map.toTicks(map->origin()).value) / kTicksPerQuarter;
  EXPECT_NEAR(beats, std::round(beats), 0.05);
}

TEST(HeardMap, SaysInWhichBarsASteadyRecordingIsNotSo) {
  HeardTempo heard;
  EXPECT_EQ(steadyText(heard), "wandering");
  heard.steady = true;
  EXPECT_EQ(steadyText(heard), "steady");
  for (int bar = 0; bar < 80; ++bar) heard.downbeats.push_back(0.5 + 2 * bar);
  heard.away = {{16.6, 17.9}};
  EXPECT_EQ(steadyText(heard), "steady but for bar 9");
  heard.away = {{16.6, 17.9}, {64.7, 69.9}};
  EXPECT_EQ(steadyText(heard), "steady but for bars 9, 33 to 35");
  heard.away = {{16.6, 17.9}, {18.6, 19.0}, {64.7, 65.9}, {99, 100}, {120, 121}};
  EXPECT_EQ(steadyText(heard), "steady but for bars 9 to 10, 33, 50 and 1 place more");
}

// A voice chosen in a band is heard with the band: its beats are the drums'.
TEST(HeardMap, WhatPlaysTogetherIsHeardTogetherAndTheDrumsLead) {
  const test::TwoSets t;
  const auto& voice = *t.song.find(t.voice);
  const auto take = t.song.takes.front().id;
  const auto alone = mixOf(t.song, voice, take, t.pool);
  const auto band = bandOf(t.song, voice, take, t.pool);
  ASSERT_EQ(band.size(), alone.size());
  double drums = 0;
  double others = 0;
  const auto kitAlone = mixOf(t.song, *t.song.find(t.kit), take, t.pool);
  for (std::size_t i = 0; i < band.size(); ++i) {
    drums += static_cast<double>(kitAlone[i]) * kitAlone[i];
    const double rest = static_cast<double>(band[i]) - kitAlone[i];
    others += rest * rest;
  }
  EXPECT_NEAR(10 * std::log10(others / drums), -6, 0.2);
}

}  // namespace
}  // namespace ochron

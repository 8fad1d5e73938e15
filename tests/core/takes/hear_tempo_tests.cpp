// What was heard of a recording as a tempo map, and what is quantized on it.

#include "takes/hear_tempo.h"

#include <gtest/gtest.h>

#include <cmath>

#include "support/song_maker.h"

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

TEST(HeardMap, AWanderingOneBeginsEveryBarWhereItWasHeardTo) {
  HeardTempo heard;
  heard.bpm = 100;
  double at = 0.7;
  for (int bar = 0; bar < 40; ++bar) {
    heard.downbeats.push_back(at);
    at += 2.4 + 0.2 * std::sin(bar / 5.0);
  }
  for (const int perBar : {3, 4}) {
    heard.beatsPerBar = perBar;
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

}  // namespace
}  // namespace ochron

// Loudness of a plan's mix, against what BS.1770 says about known sounds.

#include "render/loudness.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::atSeconds;

std::vector<float> tone(double seconds, double hertz, double level) {
  std::vector<float> out(static_cast<std::size_t>(seconds * 48'000));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = static_cast<float>(level * std::sin(2 * M_PI * hertz * static_cast<double>(i) / 48'000));
  return out;
}

std::optional<double> loudness(const Song& song, const MediaPool& pool, FrameRange range) {
  Progress progress;
  return loudnessOf(compilePlan(song, pool), range, progress);
}

TEST(Loudness, AFullScaleToneOnBothSidesIsAtMinusThreeAndAHalf) {
  // BS.1770-4: a 997 Hz sine at 0 dBFS on one side reads -3.01 LUFS; on both sides 3 dB more. A mono track is on both.
  const auto made = test::songOf(*TempoMap::steady(48'000, 120), {tone(10, 997, 1.0)}, {});
  EXPECT_NEAR(*loudness(made.song, made.pool, {Frames{}, atSeconds(10)}), 0.0, 0.05);
}

TEST(Loudness, AGainIsHeardAsItself) {
  auto made = test::songOf(*TempoMap::steady(48'000, 120), {tone(200, 500, 0.3)}, {});
  const FrameRange whole{Frames{}, atSeconds(200)};
  const double before = *loudness(made.song, made.pool, whole);
  made.song.tracks.front().gainDb = -7;
  EXPECT_NEAR(*loudness(made.song, made.pool, whole) - before, -7, 0.02);
}

TEST(Loudness, SilenceAndNothingHaveNone) {
  const auto made = test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(48'000 * 4)}, {});
  EXPECT_FALSE(loudness(made.song, made.pool, {Frames{}, atSeconds(4)}));
  EXPECT_FALSE(loudness(made.song, made.pool, {}));
}

TEST(Loudness, OnlyTheRangeCounts) {
  auto sound = tone(4, 500, 0.5);
  const auto quiet = tone(4, 500, 0.05);
  sound.insert(sound.end(), quiet.begin(), quiet.end());
  const auto made = test::songOf(*TempoMap::steady(48'000, 120), {sound}, {});
  const double loud = *loudness(made.song, made.pool, {Frames{}, atSeconds(4)});
  const double soft = *loudness(made.song, made.pool, {atSeconds(4), atSeconds(8)});
  EXPECT_NEAR(loud - soft, 20, 0.1);
}

}  // namespace
}  // namespace ochron

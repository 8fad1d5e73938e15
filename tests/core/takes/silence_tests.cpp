#include "takes/silence.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "edits/clip_edits.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;

/// Two mics of noise: sound in [0, 1 s), silence (noise at -70 dB) up to 2 s, sound up to 3 s; the second mic's sound
/// goes on 0.2 s longer.
test::MadeSong twoMics(float constant = 0) {
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> noise(-1, 1);
  std::vector<std::vector<float>> mics(2, std::vector<float>(144'000));
  for (std::size_t m = 0; m < 2; ++m)
    for (std::size_t i = 0; i < mics[m].size(); ++i) {
      const bool loud = i < 48'000 + m * 9600 || i >= 96'000;
      mics[m][i] = noise(dice) * (loud ? 0.5f : 0.0003f) + constant;
    }
  return test::songOf(*TempoMap::steady(48'000, 120), mics, {});
}

TEST(SilentGaps, AreWhereEveryMicIsSilentWithThePadLeftAround) {
  const auto m = twoMics();
  const auto gaps = silentGaps(m.song, m.set, m.pool, {-50, 100, 20});
  ASSERT_EQ(gaps.size(), 1u);
  EXPECT_NEAR(static_cast<double>(gaps[0].start.value), 57'600 + 960, 64);
  EXPECT_NEAR(static_cast<double>(gaps[0].end.value), 96'000 - 960, 64);
}

TEST(SilentGaps, AreTheSameWithAConstantVoltageInTheRecording) {
  const auto m = twoMics(0.03F);
  const auto gaps = silentGaps(m.song, m.set, m.pool, {-50, 100, 20});
  ASSERT_EQ(gaps.size(), 1u);
  EXPECT_NEAR(static_cast<double>(gaps[0].start.value), 57'600 + 960, 64);
}

TEST(SilentGaps, DependOnLevelAndLength) {
  const auto m = twoMics();
  EXPECT_TRUE(silentGaps(m.song, m.set, m.pool, {-80, 100, 20}).empty());
  EXPECT_TRUE(silentGaps(m.song, m.set, m.pool, {-50, 900, 20}).empty());
  EXPECT_TRUE(silentGaps(m.song, SetId{999}, m.pool, {}).empty());
}

TEST(SilentGaps, MoveWithTheClipAndTurnRoundWithIt) {
  auto m = twoMics();
  const auto before = silentGaps(m.song, m.set, m.pool, {-50, 100, 0});
  const auto id = m.song.find(m.set)->clips->front().id;
  m.song = *moveClips(m.song, {id}, f(10'000));
  const auto moved = silentGaps(m.song, m.set, m.pool, {-50, 100, 0});
  ASSERT_EQ(moved.size(), 1u);
  EXPECT_EQ(moved[0].start, before[0].start + f(10'000));
  m.song = *reverseClips(*moveClips(m.song, {id}, f(-10'000)), {id});
  const auto turned = silentGaps(m.song, m.set, m.pool, {-50, 100, 0});
  ASSERT_EQ(turned.size(), 1u);
  EXPECT_EQ(turned[0].start, f(144'000) - before[0].end);
  EXPECT_EQ(turned[0].length(), before[0].length());
}

TEST(SilentGaps, AMicThatIsNotAtHandOrNotRecordedIsSilent) {
  auto m = twoMics();
  m.pool.erase(m.song.takes[0].mics[1].media);
  const auto gaps = silentGaps(m.song, m.set, m.pool, {-50, 100, 0});
  ASSERT_EQ(gaps.size(), 1u);
  EXPECT_NEAR(static_cast<double>(gaps[0].start.value), 48'000, 64);
}

}  // namespace
}  // namespace ochron

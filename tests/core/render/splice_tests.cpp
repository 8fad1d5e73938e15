// Sound made longer or shorter by a few jumps: the length is right to the frame, all else is the recording to the bit,
// all channels jump alike, and no stroke is heard twice or not at all.

#include "render/splices.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "dsp/fade.h"

namespace ochron {
namespace {

constexpr int kSpliceRate = 48'000;

/// A ringing tone with overtones that dies away, and noise under it.
std::vector<float> ringing(double seconds, double hertz, unsigned seed) {
  std::mt19937 dice(seed);
  std::uniform_real_distribution<double> noise(-0.003, 0.003);
  std::vector<float> out(static_cast<std::size_t>(seconds * kSpliceRate));
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / kSpliceRate;
    double x = noise(dice);
    for (int h = 1; h < 5; ++h) x += 0.3 / h * std::exp(-t * 3 * h) * std::sin(2 * M_PI * hertz * h * t);
    out[i] = static_cast<float>(x);
  }
  return out;
}

struct Spliced {
  std::vector<std::vector<float>> out;
  std::vector<Splice> splices;
};

Spliced spliced(const std::vector<std::vector<float>>& sound, std::int64_t change, std::int64_t first = 2'160) {
  Spliced s;
  const auto frames = std::ssize(sound.front());
  const auto source = [&](std::size_t from, ChannelSpans channels) {
    for (std::size_t c = 0; c < channels.size(); ++c)
      for (std::size_t i = 0; i < channels[c].size() && from + i < sound[c].size(); ++i)
        channels[c][i] += sound[c][from + i];
  };
  const SplicedSound in{source, sound.size(), frames, kSpliceRate};
  s.splices = *splicesFor(in, change, {Frames{first}, Frames{frames - 192}}, [] { return true; });
  s.out.resize(sound.size());
  along(in, s.splices, [&](ChannelSpans block) {
    for (std::size_t c = 0; c < block.size(); ++c) s.out[c].insert(s.out[c].end(), block[c].begin(), block[c].end());
    return true;
  });
  return s;
}

TEST(Splices, MakeTheLengthToTheFrameForAnyChangeThereIsRoomFor) {
  const std::vector<std::vector<float>> sound{ringing(0.4, 190, 1)};
  for (std::int64_t change = -3'800; change <= 3'800; change += 113) {
    const auto s = spliced(sound, change);
    if (change == 0) continue;
    ASSERT_FALSE(s.splices.empty()) << change;
    EXPECT_EQ(std::ssize(s.out[0]), std::ssize(sound[0]) + change);
  }
}

TEST(Splices, OutsideOfTheirFadesAllIsTheRecordingToTheBit) {
  const std::vector<std::vector<float>> sound{ringing(0.5, 140, 2)};
  for (const std::int64_t change : {-1'900, -300, 250, 1'000, 2'500}) {
    const auto s = spliced(sound, change);
    ASSERT_FALSE(s.splices.empty());
    for (std::int64_t i = 0; i < s.splices.front().at; ++i) ASSERT_EQ(s.out[0][i], sound[0][i]);
    const auto& last = s.splices.back();
    const auto rest = std::ssize(sound[0]) - (last.to + last.fade);
    for (std::int64_t i = 1; i <= rest; ++i)
      ASSERT_EQ(s.out[0][s.out[0].size() - i], sound[0][sound[0].size() - i]) << change;
  }
}

TEST(Splices, ATonesLevelAndStepsStayItsOwn) {
  const std::vector<std::vector<float>> sound{ringing(0.5, 220, 3)};
  float steepest = 0;
  for (std::size_t i = 1; i < sound[0].size(); ++i)
    steepest = std::max(steepest, std::abs(sound[0][i] - sound[0][i - 1]));
  for (const std::int64_t change : {-1'200, -431, 517, 1'200}) {
    const auto s = spliced(sound, change);
    for (std::size_t i = 1; i < s.out[0].size(); ++i)
      ASSERT_LE(std::abs(s.out[0][i] - s.out[0][i - 1]), 1.05F * steepest) << change;
  }
}

TEST(Splices, AllChannelsJumpAlikeACopyStaysACopyAndALateOneLate) {
  const auto x = ringing(0.5, 160, 4);
  auto late = x;
  std::rotate(late.begin(), late.end() - 37, late.end());
  std::fill_n(late.begin(), 37, 0.0F);
  const std::vector<std::vector<float>> sound{x, x, late};
  for (const std::int64_t change : {-900, 700}) {
    const auto s = spliced(sound, change);
    EXPECT_EQ(s.out[0], s.out[1]);
    for (std::int64_t i = 37; i < std::ssize(s.out[0]); ++i) {
      const bool fades =
          std::any_of(s.splices.begin(), s.splices.end(), [&](const Splice& j) { return std::abs(i - j.at) < 2'000; });
      if (!fades) ASSERT_EQ(s.out[2][i], s.out[0][i - 37]) << i;
    }
  }
}

TEST(Splices, AStrokeThatNobodyFoundIsHeardOnce) {
  std::mt19937 dice(5);
  std::uniform_real_distribution<float> noise(-0.5F, 0.5F);
  for (const double at : {0.12, 0.2, 0.27}) {
    auto x = ringing(0.4, 150, 6);
    const auto stroke = static_cast<std::size_t>(at * kSpliceRate);
    for (std::size_t i = 0; i < 900; ++i)
      x[stroke + i] += noise(dice) * static_cast<float>(std::exp(-static_cast<double>(i) / 200));
    for (const std::int64_t change : {-1'100, -500, 480, 1'200}) {
      const auto s = spliced({x}, change);
      // Its first 6 ms, looked for everywhere.
      const std::span<const float> burst(x.data() + stroke, 288);
      int strokes = 0;
      for (std::size_t i = 0; i + burst.size() < s.out[0].size(); ++i)
        if (correlation(burst, std::span<const float>(s.out[0]).subspan(i, burst.size())) > 0.8) {
          ++strokes;
          i += burst.size();
        }
      EXPECT_EQ(strokes, 1) << at << " s, change " << change;
    }
  }
}

TEST(Splices, WithoutRoomThereAreNone) {
  const std::vector<std::vector<float>> sound{ringing(0.08, 190, 7)};
  EXPECT_TRUE(spliced(sound, 3'000).splices.empty());
  EXPECT_TRUE(spliced(sound, -3'000).splices.empty());
  EXPECT_TRUE(spliced(sound, 0).splices.empty());
}

}  // namespace
}  // namespace ochron

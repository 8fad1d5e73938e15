// Loudness against values that the standard gives.

#include "render/loudness_meter.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

namespace ochron {
namespace {

/// Seconds of a 1 kHz tone on both sides, peak in dBFS.
std::vector<float> tone(double seconds, double db, int rate = 48'000) {
  std::vector<float> out;
  const double level = std::pow(10, db / 20);
  for (std::int64_t i = 0; i < static_cast<std::int64_t>(seconds * rate); ++i) {
    const auto v = static_cast<float>(level * std::sin(2 * std::numbers::pi * 1000 * static_cast<double>(i) / rate));
    out.push_back(v);
    out.push_back(v);
  }
  return out;
}

TEST(LoudnessMeter, ReadsTheStandardsToneAsTheStandardSays) {
  // EBU Tech 3341, case 1: a stereo sine of 1 kHz at -23 dBFS, 20 s, is -23 LUFS.
  LoudnessMeter meter(48'000, 2);
  meter.add(tone(20, -23));
  const auto r = meter.report();
  ASSERT_TRUE(r.integrated && r.shortTerm && r.momentary && r.truePeak);
  EXPECT_NEAR(*r.integrated, -23, 0.1);
  EXPECT_NEAR(*r.shortTerm, -23, 0.1);
  EXPECT_NEAR(*r.momentary, -23, 0.1);
  EXPECT_NEAR(*r.truePeak, -23, 0.2);
  EXPECT_NEAR(static_cast<double>(r.curve.size()), 200, 1);
}

TEST(LoudnessMeter, TheRangeIsThatBetweenTwoLevels) {
  // EBU Tech 3342, case 1: 20 s at -20 dBFS, then 20 s at -30: 10 LU.
  LoudnessMeter meter(48'000, 2);
  meter.add(tone(20, -20));
  meter.add(tone(20, -30));
  EXPECT_NEAR(meter.report().range.value_or(0), 10, 1);
}

TEST(LoudnessMeter, HowItComesInPiecesDoesNotMatterAndSilenceHasNoLoudness) {
  const auto sound = tone(5, -18, 44'100);
  LoudnessMeter whole(44'100, 2);
  whole.add(sound);
  LoudnessMeter pieces(44'100, 2);
  for (std::size_t at = 0; at < sound.size(); at += 1234)
    pieces.add(std::span(sound).subspan(at, std::min<std::size_t>(1234, sound.size() - at)));
  EXPECT_EQ(whole.report().integrated, pieces.report().integrated);
  LoudnessMeter silent(48'000, 2);
  silent.add(std::vector<float>(96'000));
  EXPECT_FALSE(silent.report().integrated);
  EXPECT_FALSE(silent.report().truePeak);
}

}  // namespace
}  // namespace ochron

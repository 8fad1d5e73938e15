// Kicks, snares and hats told apart in a loop that one mic or one mix is all of.

#include "analysis/drums/one_mic_drums.h"

#include <gtest/gtest.h>

#include <map>

#include "support/drum_pattern.h"
#include "support/made_mic.h"

namespace ochron {
namespace {

using test::kPatternRate;

/// What each step of a loop of one-shots is heard as: counts by drum and by what was heard.
std::map<char, std::map<DrumClass, int>> heardAs(const std::string& bar, double step) {
  const auto sound = test::pattern(bar, 6, step, 0.2);
  GuideSignal mic;
  mic.samples = sound;
  Progress progress;
  const auto found = detectOnsets({mic}, kPatternRate, progress);
  EXPECT_TRUE(found);
  std::map<char, std::map<DrumClass, int>> out;
  const auto steps = test::repeated(bar, 6);
  for (const auto& o : *found) {
    const double at = static_cast<double>(o.at.value) / kPatternRate - 0.2;
    const auto k = std::llround(at / step);
    if (k < 0 || k >= std::ssize(steps) || std::abs(at - static_cast<double>(k) * step) > 0.01) continue;
    ++out[steps[static_cast<std::size_t>(k)]][o.drum];
  }
  return out;
}

TEST(OneMic, KicksAndSnaresOfALoopAreNamed) {
  auto heard = heardAs("k-h-s-h-k-k-s-h-", 0.15);
  EXPECT_EQ(heard['k'][DrumClass::kick], 18);
  EXPECT_EQ(heard['s'][DrumClass::snare], 12);
  EXPECT_EQ(heard['h'][DrumClass::kick] + heard['h'][DrumClass::snare], 0);
}

TEST(OneMic, AKickIsOneThoughAHatIsStruckWithIt) {
  auto heard = heardAs("K-h-S-h-K-K-S-h-", 0.16);
  EXPECT_EQ(heard['K'][DrumClass::kick], 18);
  EXPECT_GE(heard['S'][DrumClass::snare], 10);
}

TEST(OneMic, CluesDoNotKnowHowLoudTheFileIs) {
  auto sound = test::pattern("k-h-s-h-", 4, 0.2, 0.2);
  Progress progress;
  const BandEnergy loud(sound, kPatternRate, progress, 0, 1);
  for (auto& s : sound) s *= 0.05F;
  const BandEnergy soft(sound, kPatternRate, progress, 0, 1);
  const auto at = static_cast<std::int64_t>(0.2 * kPatternRate);
  const auto a = oneMicOdds(oneMicClues(loud, at));
  const auto b = oneMicOdds(oneMicClues(soft, at));
  EXPECT_NEAR(a.kick, b.kick, 0.05);
  EXPECT_NEAR(a.snare, b.snare, 0.05);
}

}  // namespace
}  // namespace ochron

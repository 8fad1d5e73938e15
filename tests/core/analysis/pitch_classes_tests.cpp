// Pitch classes of made-up chords, and how well one part fits another.

#include "analysis/tempo/pitch_classes.h"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "support/units.h"

namespace ochron {
namespace {

using test::kRate;

std::vector<float> chord(const std::vector<int>& midi) {
  std::vector<float> out(static_cast<std::size_t>(kRate) * 3);
  for (const int n : midi)
    for (int overtone = 1; overtone <= 4; ++overtone)
      for (std::size_t i = 0; i < out.size(); ++i)
        out[i] += 0.1F / static_cast<float>(overtone * overtone) *
                  static_cast<float>(std::sin(2 * std::numbers::pi * overtone * 440 * std::exp2((n - 69) / 12.0) *
                                              static_cast<double>(i) / kRate));
  return out;
}

PitchClasses heardIn(const std::vector<float>& x) { return pitchClassesOf(x, kRate); }

TEST(PitchClassesOf, AChordsNotesStandOut) {
  const auto c = heardIn(chord({60, 64, 67}));
  double of = 0;
  for (const std::size_t i : {0, 4, 7}) {
    EXPECT_GT(c[i], 0.15) << i;
    of += c[i];
  }
  EXPECT_GT(of, 0.75);
}

TEST(PitchClassesOf, TheSameChordInAnotherKeyFitsWhereItIsMovedTo) {
  const auto part = heardIn(chord({60, 64, 67}));
  const auto band = heardIn(chord({58, 62, 65, 53}));  // a whole step lower
  int best = 0;
  for (int n = 0; n < 12; ++n)
    if (keyFit(part, n, band) > keyFit(part, best, band)) best = n;
  EXPECT_EQ(best, 10);
  EXPECT_GT(keyFit(part, 10, band), 0.8);
  EXPECT_LT(keyFit(part, 6, band), 0.3);
  EXPECT_EQ(keyFit(part, 10, band), keyFit(part, -2, band));
}

TEST(PitchClassesOf, SilenceFitsNothing) {
  const auto none = heardIn(std::vector<float>(kRate * 2, 0.0F));
  for (const double v : none) EXPECT_EQ(v, 0);
  EXPECT_EQ(keyFit(none, 3, heardIn(chord({60}))), 0);
  EXPECT_EQ(heardIn({}), PitchClasses{});
}

}  // namespace
}  // namespace ochron

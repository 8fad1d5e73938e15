// Notes that differ by their vowel: one pitch sung anew, a little off, without a break.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "analysis/pitch/colour_change.h"
#include "analysis/pitch/notes.h"
#include "analysis/pitch/pitch.h"
#include "support/heard_line.h"
#include "support/made_voice.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

/// A singer who goes over to another vowel (or stays on the first) after a second, and `cents` up; the second part
/// swings.
std::vector<float> twoSyllables(double cents, bool otherVowel) {
  MadeVoice voice;
  voice.seconds = 2.2;
  voice.notes = {{0.1, 1.9, 62}};
  voice.bend = [cents](double t) {
    const double along = std::clamp((t - 1) / 0.07, 0.0, 1.0);
    const double swing = std::clamp((t - 1.2) / 0.2, 0.0, 1.0) * 40 * std::sin(2 * std::numbers::pi * 5.6 * t);
    return cents * (0.5 - 0.5 * std::cos(std::numbers::pi * along)) + swing;
  };
  auto out = voice.samples();
  if (!otherVowel) return out;
  voice.formants[0] = 320;
  voice.formants[1] = 2250;
  const auto later = voice.samples();
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto along = static_cast<float>(std::clamp((static_cast<double>(i) / voice.rate - 0.97) / 0.09, 0.0, 1.0));
    out[i] = out[i] * (1 - along) + later[i] * along;
  }
  return out;
}

std::vector<SungNote> notesIn(const std::vector<float>& x) {
  return notesOf(test::heardPitch(x), x, 48'000, {}, test::unwatched());
}

TEST(ColourChange, IsLargeWhereTheVowelChangesAndSmallWhereItIsHeld) {
  const auto x = twoSyllables(0, true);
  EXPECT_GT(ColourChange(x, 48'000).at(1), 10);
  for (const double held : {0.5, 0.7, 1.3, 1.6}) EXPECT_LT(ColourChange(x, 48'000).at(held), 4) << held;
  EXPECT_EQ(ColourChange(x, 48'000).at(0.1), 0) << "nothing is known before the beginning";
  EXPECT_EQ(ColourChange(x, 48'000).at(2.19), 0);
}

TEST(ColourChange, ALevelAloneIsNone) {
  auto x = twoSyllables(0, false);
  for (std::size_t i = 48'000; i < x.size(); ++i) x[i] *= 0.3F;
  EXPECT_LT(ColourChange(x, 48'000).at(1), 2);
}

TEST(Notes, APitchSungAnewOnAnotherVowelIsANoteOfItsOwn) {
  for (const double cents : {-42.0, -20.0, 22.0, 35.0}) {
    const auto notes = notesIn(twoSyllables(cents, true));
    ASSERT_EQ(notes.size(), 2U) << cents;
    EXPECT_NEAR(notes[1].start, 1.03, 0.06) << cents;
    const double first = 1200 * std::log2(notes[0].hertz / (440 * std::exp2((62 - 69) / 12.0)));
    const double second = 1200 * std::log2(notes[1].hertz / (440 * std::exp2((62 - 69) / 12.0)));
    EXPECT_NEAR(first, 0, 4) << cents;
    EXPECT_NEAR(second, cents, 9) << cents;
  }
}

TEST(Notes, AnotherVowelOnTheSamePitchIsStillOneNote) { EXPECT_EQ(notesIn(twoSyllables(0, true)).size(), 1U); }

}  // namespace
}  // namespace ochron

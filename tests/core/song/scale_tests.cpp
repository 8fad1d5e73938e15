#include "song/scale.h"

#include <gtest/gtest.h>

#include <cmath>

namespace ochron {
namespace {

double cents(double midi) { return 1200 * std::log2(440) + 100 * (midi - 69); }

TEST(Scale, NotesGoToTheNearestPitchOfTheScale) {
  const auto major = *parseScale("C major");
  EXPECT_NEAR(major.nearest(cents(61.4)), cents(62), 1e-9);
  EXPECT_NEAR(major.nearest(cents(60.9)), cents(60), 1e-9) << "a black key lies between two";
  EXPECT_NEAR(major.nearest(cents(59.6)), cents(60), 1e-9) << "across the octave";
  EXPECT_NEAR(parseScale("F# minor")->nearest(cents(60.4)), cents(61), 1e-9);
  EXPECT_NEAR(chromaticScale().nearest(cents(66.49)), cents(66), 1e-9);
}

TEST(Scale, AnotherReferenceMovesEveryPitch) {
  auto scale = *parseScale("A major");
  scale.reference = 432;
  EXPECT_NEAR(scale.nearest(cents(69)), 1200 * std::log2(432), 1e-9);
}

TEST(Scale, EveryTonicAndKindIsReadInAnyCase) {
  for (const auto& tonic : tonicNames())
    for (const auto& kind : scaleKinds()) {
      const auto scale = parseScale(tonic + " " + kind);
      ASSERT_TRUE(scale) << tonic << kind;
      EXPECT_EQ(scale->name, tonic + " " + kind);
      EXPECT_EQ(scale->steps.front(), 0);
    }
  EXPECT_EQ(parseScale("bb MINOR")->tonic, 10);
  EXPECT_EQ(parseScale("Cb major")->tonic, 11);
}

TEST(Scale, WhatIsNoScaleIsRefusedWithAllKinds) {
  for (const char* text : {"", "H major", "C", "C loud", "majorC", "C# ", "Cmaj", "chromatic C"}) {
    const auto scale = parseScale(text);
    ASSERT_FALSE(scale) << text;
    EXPECT_NE(scale.error().message.find("dorian"), std::string::npos);
  }
}

TEST(Scale, NotesAreNamedWithWhatTheyAreOff) {
  EXPECT_EQ(noteName(cents(60)), "C4");
  EXPECT_EQ(noteName(cents(63.12)), "Eb4 +12");
  EXPECT_EQ(noteName(cents(68.9)), "A4 -10");
  EXPECT_EQ(noteName(cents(-1)), "B-2");
}

TEST(Scale, NotesAreSpelledInTheirKey) {
  const auto spelled = [](const char* scale, std::vector<int> semitones) {
    std::string out;
    for (const int s : semitones) out += noteName(cents(60 + s), *parseScale(scale)) + " ";
    return out;
  };
  EXPECT_EQ(spelled("A major", {8, 1, 6}), "G#4 C#4 F#4 ");
  EXPECT_EQ(spelled("F minor", {8, 1, 3}), "Ab4 Db4 Eb4 ");
  EXPECT_EQ(spelled("E dorian", {6, 1}), "F#4 C#4 ");
  EXPECT_EQ(spelled("Bb minor", {1, 6}), "Db4 Gb4 ");
  EXPECT_EQ(spelled("F# major", {10, 3}), "A#4 D#4 ");
  EXPECT_EQ(spelled("D harmonic minor", {10, 1}), "Bb4 C#4 ");
  EXPECT_EQ(spelled("chromatic", {1, 3}), "C#4 Eb4 ");
}

TEST(Scale, ATransposedScaleTakesEveryPitchToWhatIsAsMuchHigher) {
  auto odd = *parseScale("Eb minor pentatonic");
  odd.name = "of a file", odd.octave = 1100, odd.steps = {0, 130, 410, 760};
  for (const auto& scale : {*parseScale("C major"), *parseScale("B phrygian"), chromaticScale(), odd})
    for (const double by : {200.0, -300.0, 1500.0, 37.0, -1250.0, 0.0})
      for (double c = cents(48.0031); c < cents(72); c += 17.3) {
        const auto moved = transposedBy(scale, by);
        ASSERT_NEAR(moved.nearest(c + by), scale.nearest(c) + by, 1e-6) << scale.name << " by " << by;
      }
  EXPECT_EQ(transposedBy(*parseScale("D minor"), 200).name, "E minor");
  EXPECT_EQ(transposedBy(*parseScale("Db minor"), 1200).name, "Db minor");
  EXPECT_EQ(transposedBy(chromaticScale(), 300).name, "chromatic");
}

TEST(Scale, APitchIsReadAsItIsWritten) {
  const auto at = [](double midi) { return 1200 * std::log2(440.0) + 100 * (midi - 69); };
  for (const auto& [text, midi] : std::vector<std::pair<const char*, double>>{{"A4", 69},
                                                                              {"c4", 60},
                                                                              {" F#3 -20", 53.8},
                                                                              {"Bb2+15", 46.15},
                                                                              {"B\u266d2 +15", 46.15},
                                                                              {"f\u266f3", 54},
                                                                              {"e4 +12", 64.12},
                                                                              {"B#3", 60},
                                                                              {"Cb4", 59},
                                                                              {"b3", 59},
                                                                              {"bb3", 58}}) {
    const auto read = parsePitch(text, 0, 440);
    ASSERT_TRUE(read) << text;
    EXPECT_NEAR(*read, at(midi), 1e-6) << text;
  }
  EXPECT_EQ(*parsePitch("+30", 6'000, 440), 6'030);
  EXPECT_EQ(*parsePitch("-12.5", 6'000, 440), 5'987.5);
}

TEST(Scale, WhatIsWrittenOfAPitchIsReadBack) {
  for (double cents = 4'900; cents < 12'000; cents += 37)
    EXPECT_NEAR(*parsePitch(noteName(cents, 442), 0, 442), cents, 0.5);
}

TEST(Scale, WhatIsNoPitchIsRefused) {
  for (const char* text : {"", "H4", "E", "E44", "E4 12", "+", "+x", "E4 +nan", "+99999", "4E", "E-1"})
    EXPECT_FALSE(parsePitch(text, 6'000, 440)) << text;
}

}  // namespace
}  // namespace ochron

// Moments heard an octave low are lifted; notes that are an octave low are not.

#include "analysis/pitch/pitch_slips.h"

#include <gtest/gtest.h>

#include <cmath>

#include "analysis/pitch/pitch.h"
#include "support/made_voice.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::kRate;
using Values = std::vector<PitchTrack::Value>;

void add(Values& values, int count, double hertz, double voiced = 0.9) {
  for (int i = 0; i < count; ++i) values.push_back({hertz, voiced});
}

/// As if the sound repeated itself at every pitch so badly.
auto always(double unlike) {
  return [unlike](std::size_t, double) { return unlike; };
}

TEST(PitchSlips, AnAttackHeardAnOctaveLowIsLiftedWhateverCameBefore) {
  for (const double before : {0.0, 123.0, 440.0}) {
    Values values;
    add(values, 30, before > 0 ? before : 200, before > 0 ? 0.9 : 0);
    add(values, 25, 110);
    add(values, 60, 220);
    const auto was = values;
    liftOctaves(values, always(0.1));
    for (std::size_t i = 0; i < values.size(); ++i)
      EXPECT_EQ(values[i].hertz, i >= 30 && i < 55 ? 220 : was[i].hertz) << before << ", value " << i;
  }
}

TEST(PitchSlips, WhatComesOutOfAnOctaveAboveIsLiftedToo) {
  Values values;
  add(values, 60, 220);
  add(values, 10, 110);
  add(values, 20, 0, 0);
  liftOctaves(values, always(0.1));
  EXPECT_EQ(values[65].hertz, 220);
}

/// Whether so many values an octave low are lifted.
bool lifts(int count, double unlike) {
  Values values;
  add(values, count, 110);
  add(values, 60, 220);
  const auto was = values;
  liftOctaves(values, always(unlike));
  return values != was;
}

TEST(PitchSlips, WhereTheOctaveIsNotHeardOrTheNoteIsLongNothingIsLifted) {
  EXPECT_TRUE(lifts(25, 0.1));
  EXPECT_FALSE(lifts(25, 0.5)) << "its octave is not heard";
  EXPECT_FALSE(lifts(41, 0.01)) << "a note";
}

TEST(PitchSlips, AnUndertoneOfTwoNotesIsNeitherHoweverItBegins) {
  for (const double first : {72.0, 92.5, 130.0}) {
    Values values;
    add(values, 30, 468);
    add(values, 1, first);
    add(values, 20, 92.5);
    add(values, 30, 370);
    liftUndertones(values);
    for (std::size_t i = 31; i < 51; ++i) EXPECT_EQ(values[i].hertz, 370) << "value " << i << " after " << first;
  }
}

TEST(PitchSlips, ALowNoteBetweenTwoHighOnesStays) {
  Values values;
  add(values, 30, 468);
  add(values, 41, 92.5);
  add(values, 30, 370);
  const auto was = values;
  liftUndertones(values);
  EXPECT_EQ(values, was);
}

TEST(PitchSlips, NothingAndOneValueAreNoFailure) {
  Values values;
  liftOctaves(values, always(0));
  liftUndertones(values);
  EXPECT_TRUE(values.empty());
  add(values, 1, 110);
  liftOctaves(values, always(0));
  liftUndertones(values);
  EXPECT_EQ(values[0].hertz, 110);
}

TEST(PitchSlips, ABassThatJumpsOctavesWithoutAPauseIsHeardAsItPlays) {
  MadeVoice bass;
  bass.seconds = 3.5;
  for (int i = 0; i < 16; ++i) bass.notes.push_back({0.2 + 0.19 * i, 0.19, i % 2 == 0 ? 43.0 : 55.0});
  const auto x = bass.samples();
  Progress progress;
  const auto track = *pitchOf(x, bass.rate, {}, progress);
  for (const auto& n : bass.notes) {
    const auto middle = static_cast<std::size_t>((n.at + 0.7 * n.seconds) / PitchTrack::kHop);
    EXPECT_NEAR(centsOf(track.values[middle].hertz), centsOfMidi(n.midi), 50) << n.at;
  }
}

TEST(PitchSlips, AnAttackThatRepeatsItselfEverySecondPeriodIsHeardAtItsPitch) {
  // For 120 ms every second period is a little softer, as a plucked string's is.
  constexpr double kHertz = 139.5;
  std::vector<float> x(kRate, 0.0F);
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / kRate - 0.2;
    if (t < 0) continue;
    double sum = 0;
    for (int h = 1; h <= 8; ++h) sum += std::cos(2 * M_PI * h * kHertz * t) / h;
    double below = 0;
    for (int h = 1; h <= 15; h += 2) below += std::cos(M_PI * h * kHertz * t + 1) / h;
    const double odd = t < 0.12 ? 0.3 : 0.3 * std::exp(-(t - 0.12) / 0.01);
    x[i] = static_cast<float>(0.2 * std::min(1.0, t / 0.005) * (sum + odd * below));
  }
  Progress progress;
  const auto track = *pitchOf(x, kRate, {}, progress);
  for (double t = 0.23; t < 0.8; t += 0.01) {
    const auto& v = track.values[static_cast<std::size_t>(t / PitchTrack::kHop)];
    EXPECT_NEAR(centsOf(v.hertz), centsOf(kHertz), 50) << t;
  }
}

TEST(PitchSlips, WhatIsFarMoreAlikeAfterTwoPeriodsIsAnOctaveLower) {
  // An octave too high: twice the true pitch.
  const auto unlikeAt = [](double trueHertz, double high, double low) {
    return [=](std::size_t, double hertz) { return hertz > 1.5 * trueHertz ? high : low; };
  };
  const auto dropped = [](int count, double lowest, const Unlikeness& unlike) {
    Values values;
    add(values, count, 440);
    const auto was = values;
    dropOctaves(values, lowest, unlike);
    for (const auto& v : values) EXPECT_EQ(v.hertz, values.front().hertz);
    return values.front().hertz;
  };
  EXPECT_EQ(dropped(60, 40, unlikeAt(220, 0.03, 0.0008)), 220);
  EXPECT_EQ(dropped(60, 40, unlikeAt(220, 0.03, 0.006)), 440) << "as the last note rings on";
  EXPECT_EQ(dropped(60, 40, unlikeAt(220, 0.01, 0.0001)), 440) << "a faint undertone";
  EXPECT_EQ(dropped(60, 300, unlikeAt(220, 0.03, 0.0008)), 440) << "too low to be looked for";
  EXPECT_EQ(dropped(8, 40, unlikeAt(220, 0.03, 0.0008)), 440) << "too short to tell";
}

TEST(Pitch, AStrongSecondHarmonicIsNotTakenForThePitch) {
  for (const double hertz : {98.0, 220.0, 330.0}) {
    std::vector<float> x(static_cast<std::size_t>(kRate));
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double phase = 2 * M_PI * hertz * static_cast<double>(i) / kRate;
      x[i] = static_cast<float>(0.02 * std::sin(phase) + 0.3 * std::sin(2 * phase) + 0.03 * std::sin(3 * phase) +
                                0.06 * std::sin(4 * phase) + 0.015 * std::sin(5 * phase));
    }
    Progress progress;
    const auto track = pitchOf(x, kRate, {}, progress);
    ASSERT_TRUE(track);
    for (std::size_t t = 20; t < 180; ++t) EXPECT_NEAR(track->values[t].hertz, hertz, 1) << hertz << ", value " << t;
  }
}

}  // namespace
}  // namespace ochron

// Pitch and notes of made-up lines whose pitch was set.

#include "analysis/pitch/pitch.h"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>

#include "analysis/pitch/notes.h"
#include "support/heard_line.h"
#include "support/units.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

using test::centsOff;

using test::kRate;

struct Sound {
  double at;
  double seconds;
  double midi;
};

double hertzOf(double midi) { return 440 * std::exp2((midi - 69) / 12); }

/// A line of six harmonics, each note with an attack of 20 ms and a release of 20 ms. `bend(t)`: cents.
std::vector<float> sung(
    double seconds, const std::vector<Sound>& sounds,
    const std::function<double(double)>& bend = [](double) { return 0.0; }) {
  std::vector<float> out(static_cast<std::size_t>(seconds * kRate), 0.0F);
  for (const auto& s : sounds) {
    double phase = 0;
    const auto length = static_cast<std::int64_t>(s.seconds * kRate);
    for (std::int64_t i = 0; i < length; ++i) {
      const double t = static_cast<double>(i) / kRate;
      const double hertz = hertzOf(s.midi) * std::exp2(bend(s.at + t) / 1200);
      phase += 2 * M_PI * hertz / kRate;
      const double level = 0.2 * std::min({1.0, t / 0.02, (s.seconds - t) / 0.02});
      double x = 0;
      for (int h = 1; h <= 6; ++h) x += std::sin(h * phase) / h;
      out[static_cast<std::size_t>(std::llround(s.at * kRate) + i)] += static_cast<float>(level * x);
    }
  }
  return out;
}

std::size_t valueAt(double seconds) { return static_cast<std::size_t>(std::llround(seconds / PitchTrack::kHop)); }

TEST(Pitch, EveryNoteFromLowToHighIsHeardWithinFiveCents) {
  for (const double midi : {28.0, 33.3, 40.0, 47.5, 55.0, 62.25, 69.0, 76.0, 84.0}) {
    const auto track = test::heardPitch(sung(1.2, {{0.1, 1.0, midi}}));
    for (double t = 0.2; t < 1.0; t += 0.05) {
      const auto v = track.values.at(valueAt(t));
      EXPECT_GE(v.voiced, 0.5) << midi << " at " << t;
      EXPECT_LT(centsOff(v.hertz, hertzOf(midi)), 5) << midi << " at " << t;
    }
  }
}

TEST(Pitch, AVibratoIsFollowedToItsDepth) {
  const auto bend = [](double t) { return 60 * std::sin(2 * M_PI * 5.5 * t); };
  const auto track = test::heardPitch(sung(2.2, {{0.1, 2.0, 60}}, bend));
  double most = 0;
  for (double t = 0.3; t < 1.9; t += PitchTrack::kHop) {
    const auto v = track.values.at(valueAt(t));
    EXPECT_LT(centsOff(v.hertz, hertzOf(60) * std::exp2(bend(t) / 1200)), 3) << t;
    most = std::max(most, centsOff(v.hertz, hertzOf(60)));
  }
  EXPECT_GT(most, 57);
  EXPECT_LT(most, 62);
}

TEST(Pitch, SilenceAndNoiseAreNotVoiced) {
  std::mt19937 dice(3);
  std::normal_distribution<float> hiss(0, 0.1F);
  std::vector<float> noise(kRate);
  for (auto& x : noise) x = hiss(dice);
  const auto voicedShare = [](const PitchTrack& track) {
    std::size_t n = 0;
    for (const auto& v : track.values) n += v.voiced >= 0.5 ? 1 : 0;
    return static_cast<double>(n) / static_cast<double>(track.values.size());
  };
  EXPECT_LT(voicedShare(test::heardPitch(noise)), 0.1);
  EXPECT_EQ(voicedShare(test::heardPitch(std::vector<float>(kRate, 0.0F))), 0);
  const auto between = test::heardPitch(sung(3, {{0.2, 0.8, 57}, {2.0, 0.8, 57}}));
  for (double t = 1.15; t < 1.85; t += PitchTrack::kHop) EXPECT_LT(between.values.at(valueAt(t)).voiced, 0.5) << t;
}

TEST(Pitch, WhereNotesRingIntoEachOtherNoUndertoneIsHeard) {
  const auto samples = sung(2, {{0.1, 1.0, 66}, {0.95, 0.9, 60}});
  const auto track = test::heardPitch(samples);
  for (double t = 0.2; t < 1.8; t += PitchTrack::kHop) EXPECT_GT(track.values.at(valueAt(t)).hertz, hertzOf(58)) << t;
}

TEST(Pitch, TheRangeIsKeptAndCancellingIsSaid) {
  const auto samples = sung(1, {{0.1, 0.8, 45}});
  for (const auto& v : test::heardPitch(samples, kRate, {.lowest = 200, .highest = 800}).values)
    if (v.hertz > 0) EXPECT_GT(v.hertz, 195);
  Progress stopped;
  stopped.cancel();
  EXPECT_FALSE(pitchOf(samples, kRate, {}, stopped));
  EXPECT_LT(test::heardPitch(std::vector<float>{}).values.size(), 2u);
}

TEST(Notes, AVibratoIsOneNoteAndAStepIsTwo) {
  const auto bend = [](double t) { return 55 * std::sin(2 * M_PI * 5.2 * t); };
  const auto samples = sung(3, {{0.2, 1.2, 62}, {1.4, 0.4, 63}, {1.8, 0.9, 60}}, bend);
  const auto notes = notesOf(test::heardPitch(samples), samples, kRate, {}, test::unwatched());
  ASSERT_EQ(notes.size(), 3u);
  const double starts[] = {0.2, 1.4, 1.8};
  const double midi[] = {62, 63, 60};
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_NEAR(notes[i].start, starts[i], 0.04) << i;
    EXPECT_LT(centsOff(notes[i].hertz, hertzOf(midi[i])), 15) << i;
  }
}

TEST(Notes, AnOnsetAmidAPitchBeginsItAnewOnlyWhereTheLevelRises) {
  const auto samples = sung(2, {{0.2, 0.6, 50}, {0.82, 0.6, 50}});
  const auto track = test::heardPitch(samples);
  const auto parted = notesOf(track, samples, kRate, {0.2, 0.5, 0.82}, test::unwatched());
  ASSERT_EQ(parted.size(), 2u) << "0.5 s is amid a steady tone";
  EXPECT_NEAR(parted[1].start, 0.82, 0.001);
  EXPECT_LE(parted[0].end, parted[1].start);
}

/// Noise of a voice without a pitch, as bright as an s or as dull as a bow that takes hold.
void addNoise(std::vector<float>& x, double from, double to, bool bright, float level) {
  std::mt19937 dice(3);
  std::normal_distribution<float> hiss(0, level);
  float last = 0;
  float dull = 0;
  float duller = 0;
  for (auto i = static_cast<std::size_t>(from * kRate); i < static_cast<std::size_t>(to * kRate); ++i) {
    const float n = hiss(dice);
    dull += 0.03F * (n - dull);
    duller += 0.03F * (dull - duller);
    x[i] += bright ? n - last : 6 * duller;
    last = n;
  }
}

TEST(Notes, AConsonantBeforeOneIsNoneOfItButASlowAttackIs) {
  for (const bool consonant : {true, false}) {
    auto samples = sung(1.6, {{0.1, 0.5, 57}, {0.9, 0.6, 57}});
    addNoise(samples, 0.81, 0.905, consonant, 0.05F);
    const auto notes = notesOf(test::heardPitch(samples), samples, kRate, {0.1, 0.81}, test::unwatched());
    ASSERT_EQ(notes.size(), 2u);
    EXPECT_NEAR(notes[1].start, consonant ? 0.9 : 0.81, 0.02);
  }
}

TEST(Notes, AGlideBelongsToTheNoteThatItLeadsTo) {
  for (const double step : {-4.0, 3.0, 7.0}) {
    const auto bend = [&](double t) {
      const double along = std::clamp((t - 0.8) / 0.08, 0.0, 1.0);
      return 100 * step * (0.5 - 0.5 * std::cos(M_PI * along));
    };
    const auto samples = sung(1.6, {{0.1, 1.4, 57}}, bend);
    // The hit is where the glide arrives, where the sound changes most.
    const auto notes = notesOf(test::heardPitch(samples), samples, kRate, {0.1, 0.875}, test::unwatched());
    ASSERT_EQ(notes.size(), 2u) << step;
    EXPECT_GT(notes[1].start, 0.795) << step;
    EXPECT_LT(notes[1].start, 0.845) << step;
    EXPECT_LT(centsOff(notes[1].hertz, hertzOf(57 + step)), 5) << step;
  }
}

TEST(Notes, TheyAreInOrderAndDoNotOverlapWhateverTheTrack) {
  std::mt19937 dice(11);
  for (int round = 0; round < 30; ++round) {
    PitchTrack track;
    std::vector<double> onsets;
    double hertz = 200;
    for (int i = 0; i < 800; ++i) {
      if (dice() % 60 == 0) hertz = 80 + dice() % 600;
      if (dice() % 50 == 0) onsets.push_back(i * PitchTrack::kHop);
      track.values.push_back({dice() % 40 == 0 ? 0 : hertz, dice() % 10 == 0 ? 0.2 : 0.9});
    }
    std::vector<float> samples(static_cast<std::size_t>(4 * kRate));
    for (auto& x : samples) x = static_cast<float>(dice() % 1000) / 1000 - 0.5F;
    const auto notes = notesOf(track, samples, kRate, onsets, test::unwatched());
    double last = 0;
    for (const auto& n : notes) {
      EXPECT_GE(n.start, last);
      EXPECT_GT(n.end, n.start);
      EXPECT_GT(n.hertz, 0);
      last = n.end;
    }
  }
  EXPECT_TRUE(notesOf({}, {}, kRate, {0.1}, test::unwatched()).empty());
}

}  // namespace
}  // namespace ochron

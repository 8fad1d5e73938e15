// Notes that begin while another rings, and glides that are none.

#include "analysis/pitch/note_overlap.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "analysis/pitch/notes.h"
#include "analysis/pitch/pitch.h"
#include "support/heard_line.h"
#include "support/made_voice.h"
#include "support/units.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

using test::centsOff;

using test::kRate;

constexpr double kFirst = 196.0;  // Hz
constexpr double kChange = 1.0;   // s

/// A tone of ten harmonics at `level(t)`.
void addTone(std::vector<float>& out, double hertz, const std::function<double(double)>& level) {
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    double x = 0;
    for (int h = 1; h <= 10; ++h) x += std::sin(2 * M_PI * h * hertz * t) / h;
    out[i] += static_cast<float>(0.2 * level(t) * x);
  }
}

/// Two bowed notes: the first rings on with 80 ms to a third of it, the second swells in 120 ms.
std::vector<float> bowed(double second) {
  std::vector<float> out(2 * kRate, 0.0F);
  addTone(out, kFirst,
          [&](double t) { return t < kChange ? std::min(1.0, t / 0.05) : std::exp(-(t - kChange) / 0.08); });
  addTone(out, second, [&](double t) { return std::clamp((t - kChange) / 0.12, 0.0, 1.0); });
  return out;
}

class LaterNote : public ::testing::TestWithParam<double> {
 protected:
  void SetUp() override { ASSERT_EQ(notes.size(), 2U); }

  double second = GetParam();
  std::vector<float> x = bowed(second);
  PitchTrack track = test::heardPitch(x);
  std::vector<SungNote> notes = notesOf(track, x, kRate, {}, test::unwatched());
};

TEST_P(LaterNote, UnderARingingOneBeginsWhereItSwells) {
  EXPECT_NEAR(notes[1].start, kChange + 0.012, 0.03);  // where it passes 20 dB below its most
  EXPECT_LT(centsOff(notes[1].hertz, second), 10);
  EXPECT_LE(notes[0].end, notes[1].start);
}

TEST_P(LaterNote, HasItsOwnPitchFromThereOn) {
  const auto after = withBeginnings(track, x, kRate, notes);
  const auto first = PitchTrack::valueAt(notes[1].start);
  std::size_t wrongBefore = 0;
  for (auto t = first; t < PitchTrack::valueAt(1.9); ++t) {
    wrongBefore += centsOff(track.values[t].hertz, second) > 50 ? 1U : 0U;
    EXPECT_TRUE(after.values[t].sounds()) << PitchTrack::secondsAt(t);
    EXPECT_LT(centsOff(after.values[t].hertz, second), 50) << PitchTrack::secondsAt(t);
  }
  EXPECT_GE(wrongBefore, 3U);  // it would tell nothing otherwise
  for (std::size_t t = 0; t < first; ++t) EXPECT_EQ(after.values[t], track.values[t]);
}
// A half tone to a fifth, up and down.
INSTANTIATE_TEST_SUITE_P(Bows, LaterNote, ::testing::Values(207.65, 220.0, 246.94, 293.66, 164.81, 146.83));

/// Two plucked notes of a bass, the first held for `held` seconds into the second.
std::vector<float> heldInto(double first, double second, double held) {
  std::vector<float> out(2 * kRate, 0.0F);
  const auto plucked = [](double t) { return t < 0 ? 0.0 : std::min(1.0, t / 0.008) * std::exp(-t / 1.5); };
  addTone(out, first, [&](double t) {
    const double let = t - kChange - held;
    return plucked(t - 0.2) * (let < 0 ? 1.0 : std::exp(-let / 0.02));
  });
  addTone(out, second, [&](double t) { return 0.7 * plucked(t - kChange); });
  return out;
}

// What repeats of two notes at once may be neither of them.
TEST(NoteOverlap, TwoBassNotesHeldAtOnceAreTheTwoAndNoneBetween) {
  for (const auto& [first, second] : {std::pair{123.5, 103.8}, {103.8, 123.5}, {146.8, 123.5}, {110.0, 98.0}}) {
    const auto x = heldInto(first, second, 0.22);
    const auto track = test::heardPitch(x);
    const auto notes = notesOf(track, x, kRate, {kChange}, test::unwatched());
    ASSERT_EQ(notes.size(), 2U) << first << " to " << second;
    EXPECT_LT(centsOff(notes[0].hertz, first), 10);
    EXPECT_LT(centsOff(notes[1].hertz, second), 10);
    EXPECT_NEAR(notes[1].start, kChange, 0.03);
    const auto after = withBeginnings(track, x, kRate, notes);
    for (auto t = PitchTrack::valueAt(kChange + 0.05); t < PitchTrack::valueAt(1.9); ++t)
      ASSERT_LT(centsOff(after.values[t].hertz, second), 50)
          << first << " to " << second << " at " << PitchTrack::secondsAt(t);
  }
}

TEST(NoteOverlap, AThirdNoteBetweenTwoStaysANote) {
  std::vector<float> x(2 * kRate, 0.0F);
  const auto during = [](double t, double from, double to) {
    return std::clamp((t - from) / 0.008, 0.0, 1.0) * std::clamp((to - t) / 0.02, 0.0, 1.0);
  };
  addTone(x, 123.5, [&](double t) { return during(t, 0.1, 0.9); });
  addTone(x, 110.0, [&](double t) { return during(t, 0.9, 1.12); });
  addTone(x, 103.8, [&](double t) { return during(t, 1.12, 1.9); });
  EXPECT_FALSE(liesBetween(x, kRate, {0.1, 0.9, 123.5}, {0.9, 1.12, 110.0}, {1.12, 1.9, 103.8}));
  const auto notes = notesOf(test::heardPitch(x), x, kRate, {0.9, 1.12}, test::unwatched());
  ASSERT_EQ(notes.size(), 3U);
  EXPECT_LT(centsOff(notes[1].hertz, 110.0), 10);
}

TEST(NoteOverlap, AnOnsetByItsRiseIsWhereItBegins) {
  const auto x = bowed(246.94);
  const auto track = test::heardPitch(x);
  const auto alone = notesOf(track, x, kRate, {}, test::unwatched());
  ASSERT_EQ(alone.size(), 2U);
  const auto near = notesOf(track, x, kRate, {alone[1].start + 0.012}, test::unwatched());
  ASSERT_EQ(near.size(), 2U);
  EXPECT_EQ(near[1].start, alone[1].start + 0.012);
  const auto far = notesOf(track, x, kRate, {alone[1].start + 0.05}, test::unwatched());
  ASSERT_EQ(far.size(), 2U);
  EXPECT_EQ(far[1].start, alone[1].start);
}

TEST(NoteOverlap, AGlideOfOneVoiceIsNone) {
  for (const double seconds : {0.01, 0.03, 0.06, 0.12})
    for (const double cents : {200.0, 500.0, -300.0}) {
      MadeVoice voice;
      voice.notes = {{0.1, 1.8, 55}};
      voice.bend = [&](double t) { return cents * std::clamp((t - kChange) / seconds, 0.0, 1.0); };
      const auto x = voice.samples();
      const auto track = test::heardPitch(x);
      const SungNote first{0.1, kChange + seconds / 2, kFirst};
      const SungNote second{kChange + seconds / 2, 1.9, kFirst * std::exp2(cents / 1200)};
      EXPECT_FALSE(overlapOf(track, x, kRate, first, second)) << seconds << " s, " << cents << " cents";
      EXPECT_EQ(withBeginnings(track, x, kRate, {first, second}), track) << seconds << " s, " << cents << " cents";
    }
}

TEST(NoteOverlap, APauseAnOctaveUpAndTheSamePitchAreNone) {
  const auto octave = bowed(2 * kFirst);
  EXPECT_FALSE(overlapOf(test::heardPitch(octave), octave, kRate, {0, kChange, kFirst}, {kChange, 1.9, 2 * kFirst}));
  const auto same = bowed(kFirst);
  EXPECT_FALSE(overlapOf(test::heardPitch(same), same, kRate, {0, kChange, kFirst}, {kChange, 1.9, kFirst}));
  const auto other = bowed(246.94);
  EXPECT_FALSE(overlapOf(test::heardPitch(other), other, kRate, {0, 0.9, kFirst}, {kChange, 1.9, 246.94}));
}

TEST(Notes, TheirHearingIsReportedToItsEndAndStopsWhenCancelled) {
  const auto x = bowed(246.94);
  Progress progress;
  const auto track = pitchOf(x, kRate, {}, progress);
  ASSERT_TRUE(track);
  EXPECT_EQ(progress.fraction(), kPitchShare);
  EXPECT_EQ(notesOf(*track, x, kRate, {}, progress).size(), 2U);
  EXPECT_GT(progress.fraction(), kPitchShare);
  EXPECT_LE(progress.fraction(), 1);
  progress.cancel();
  EXPECT_TRUE(notesOf(*track, x, kRate, {}, progress).empty());
  EXPECT_FALSE(pitchOf(x, kRate, {}, progress));
}

TEST(NoteOverlap, NothingAtTheEndsOfASoundIsRead) {
  std::vector<float> tiny(200, 0.1F);
  const auto track = test::heardPitch(tiny);
  EXPECT_FALSE(overlapOf(track, tiny, kRate, {0, 0.001, kFirst}, {0.001, 0.004, 246.94}));
  EXPECT_EQ(withBeginnings({}, {}, kRate, {}), PitchTrack{});
  EXPECT_FALSE(overlapOf({}, {}, kRate, {0, 1, kFirst}, {1, 2, 246.94}));
}

}  // namespace
}  // namespace ochron

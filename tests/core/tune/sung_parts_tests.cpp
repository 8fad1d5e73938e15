// Notes whose centre, wander and vibrato were set by us: each is found, up to the note's ends.

#include "tune/sung_parts.h"

#include <gtest/gtest.h>

#include <cmath>

#include "analysis/pitch/pitch_course.h"
#include "support/made_voice.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

constexpr double kLow = 6400;  // cents above 1 Hz

struct Sung {
  PitchTrack track;
  SungNote note;
};

/// The only note of a voice.
Sung sung(const MadeVoice& voice) {
  const auto x = voice.samples();
  Progress progress;
  Sung out{*pitchOf(x, voice.rate, {}, progress), {}};
  const auto notes = notesOf(out.track, x, voice.rate, {}, test::unwatched());
  EXPECT_EQ(notes.size(), 1U);
  if (!notes.empty()) out.note = notes[0];
  return out;
}

/// A note of one value each 5 ms whose pitch is as given.
template <class F>
Sung played(double seconds, F cents) {
  Sung out;
  for (double t = 0; t < seconds - 1e-9; t += PitchTrack::kHop) {
    PitchTrack::Value v;
    v.hertz = std::exp2(cents(t) / 1200);
    v.voiced = 1;
    out.track.values.push_back(v);
  }
  out.note.start = 0;
  out.note.end = seconds;
  out.note.hertz = std::exp2(kLow / 1200);
  return out;
}

TEST(SungParts, OfANoteAddUpToWhatWasSung) {
  MadeVoice voice;
  voice.notes = {{0.1, 1.7, 58.2}};
  voice.bend = [](double t) { return -150 * std::exp(-(t - 0.1) / 0.05) + 30 * std::sin(2 * M_PI * 5 * t); };
  const auto [track, note] = sung(voice);
  const auto p = partsOf(track, note);
  EXPECT_NEAR(p.centre, centsOfMidi(58.2), 4);
  EXPECT_NEAR(p.vibratoHertz, 5, 0.2);
  EXPECT_NEAR(p.vibratoCents, 30, 4);
  EXPECT_GT(static_cast<double>(p.first) * PitchTrack::kHop, 0.11) << "the scoop is a glide";
  for (auto t = p.first; t < p.last; ++t)
    EXPECT_NEAR(p.centre + p.wander[t - p.first] + p.vibrato[t - p.first], centsOf(track.values[t].hertz), 1e-9);
}

TEST(SungParts, AVibratoOfAnyRateIsToldFromTheWanderUpToBothEnds) {
  for (const double hertz : {4.2, 5.0, 6.3, 7.5})
    for (const double seconds : {0.7, 1.03, 1.6}) {
      const auto wander = [](double t) { return 18 * std::sin(2 * M_PI * 0.4 * t + 0.5); };
      const auto note =
          played(seconds, [&](double t) { return kLow + wander(t) + 45 * std::cos(2 * M_PI * hertz * t); });
      const auto p = partsOf(note.track, note.note);
      EXPECT_NEAR(p.vibratoHertz, hertz, 0.06) << seconds;
      EXPECT_NEAR(p.vibratoCents, 45, 1.5) << hertz << " Hz, " << seconds;
      double worst = 0;
      for (std::size_t i = 0; i < p.wander.size(); ++i)
        worst = std::max(worst, std::abs(kLow + wander(static_cast<double>(p.first + i) * PitchTrack::kHop) - p.centre -
                                         p.wander[i]));
      EXPECT_LT(worst, 3) << hertz << " Hz, " << seconds;
    }
}

TEST(SungParts, AVibratoThatComesLateAfterAScoopIsHeardAtItsRateAndLeavesTheCentreAlone) {
  for (const double hertz : {4.6, 5.3, 6.1})
    for (const double seconds : {0.7, 0.85, 1.1}) {  // two turns and more of it
      const auto note = played(seconds, [&](double t) {
        const double swell = std::clamp((t - 0.18) / 0.2, 0.0, 1.0);
        return kLow - 90 * std::exp(-t / 0.045) + 38 * swell * std::sin(2 * M_PI * hertz * t + 1);
      });
      const auto p = partsOf(note.track, note.note);
      EXPECT_NEAR(p.vibratoHertz, hertz, 0.4) << seconds;
      EXPECT_NEAR(p.centre, kLow, 5) << hertz << " Hz, " << seconds;
    }
}

TEST(SungParts, WithoutAVibratoAllThatMovesSlowlyIsWander) {
  const auto note = played(1.2, [](double t) { return kLow + 30 * t; });
  const auto p = partsOf(note.track, note.note);
  EXPECT_EQ(p.vibratoHertz, 0);
  EXPECT_NEAR(p.centre, kLow + 18, 0.2);
  for (const double v : p.vibrato) EXPECT_NEAR(v, 0, 0.01);
}

TEST(SungParts, WhatAVoiceLeavesBehindAsItDiesIsNoPartOfTheNote) {
  // Resonances that ring on have a pitch of their own, which the last values run off to.
  const auto note = played(
      1.5, [](double t) { return kLow + 20 * std::sin(2 * M_PI * 5.5 * t) + (t < 1.485 ? 0 : 8'000 * (t - 1.485)); });
  const auto p = partsOf(note.track, note.note);
  EXPECT_LE(p.last, 298U);
  EXPECT_GE(p.last, 294U);
  for (const double w : p.wander) EXPECT_NEAR(w, 0, 3);
}

TEST(SungParts, ALineBesideASineIsFoundToItsEnds) {
  std::vector<double> course(160);
  for (std::size_t i = 0; i < course.size(); ++i) {
    const auto at = static_cast<double>(i);
    course[i] = 0.3 * at + 40 * std::sin(2 * M_PI * 5.7 * at * PitchTrack::kHop);
  }
  const auto line = withoutVibrato(course, 5.7);
  for (std::size_t i = 0; i < line.size(); ++i) EXPECT_NEAR(line[i], 0.3 * static_cast<double>(i), 0.7) << i;
}

TEST(SungParts, OfNoValueOrOneAreNoFailure) {
  EXPECT_TRUE(withoutVibrato({}, 5).empty());
  EXPECT_NEAR(withoutVibrato({77}, 5)[0], 77, 0.2);
  auto note = played(0.005, [](double) { return kLow; });
  const auto p = partsOf(note.track, note.note);
  EXPECT_EQ(p.wander.size(), 1U);
  EXPECT_NEAR(p.centre, kLow, 0.01);
}

}  // namespace
}  // namespace ochron

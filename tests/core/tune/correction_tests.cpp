// Correction of made-up voices whose pitch was set: what is moved gets there, what is not stays to the bit.

#include "tune/correction.h"

#include <gtest/gtest.h>

#include <random>

#include "analysis/pitch/pitch_course.h"
#include "base/median.h"
#include "support/heard_line.h"
#include "support/made_voice.h"
#include "support/tones.h"
#include "support/unwatched.h"
#include "tune/tuned_sound.h"

namespace ochron {
namespace {

TuneSettings toScale(const char* name) {
  TuneSettings s;
  s.on = true;
  s.scale = *parseScale(name);
  return s;
}

std::vector<float> corrected(const std::vector<float>& x, const TuneSettings& s,
                             const std::vector<NoteWish>& wishes = {}, int rate = 48'000) {
  const auto track = test::heardPitch(x, rate);
  const auto notes = tuned(track, notesOf(track, x, rate, {}, test::unwatched()), s, wishes);
  auto out = x;
  for (const auto& stretch : movedStretches(track, notes, s)) {
    const auto made = tunedSound({std::span<const float>(x)}, x, rate, {}, track, stretch);
    if (!made.channels.empty())
      std::copy(made.channels[0].begin(), made.channels[0].end(), out.begin() + made.start.value);
  }
  return out;
}

double centreOf(const std::vector<float>& x, double from, double to, int rate = 48'000) {
  const auto track = test::heardPitch(x, rate);
  std::vector<double> all;
  for (auto t = static_cast<std::size_t>(from / PitchTrack::kHop); t < static_cast<std::size_t>(to / PitchTrack::kHop);
       ++t)
    if (track.values[t].sounds()) all.push_back(centsOf(track.values[t].hertz));
  return medianOf(std::move(all));
}

float steepest(const std::vector<float>& s) {
  float most = 0;
  for (std::size_t i = 1; i < s.size(); ++i) most = std::max(most, std::abs(s[i] - s[i - 1]));
  return most;
}

double spreadOf(const std::vector<float>& x, double from, double to) {
  const auto track = test::heardPitch(x);
  const auto course = pitchCourse(track, static_cast<std::size_t>(from / PitchTrack::kHop),
                                  static_cast<std::size_t>(to / PitchTrack::kHop));
  const auto [low, high] = std::minmax_element(course.begin(), course.end());
  return *high - *low;
}

TEST(Correction, EveryNoteReachesItsPitchWhateverItsHeight) {
  for (const double midi : {41.3, 48.35, 57.7, 64.25, 71.4}) {
    MadeVoice voice;
    voice.notes = {{0.2, 1.2, midi}};
    const auto x = voice.samples();
    EXPECT_NEAR(centreOf(corrected(x, toScale("chromatic")), 0.4, 1.2), centsOfMidi(std::round(midi)), 2) << midi;
  }
}

TEST(Correction, AnotherSampleRateMakesNoDifference) {
  MadeVoice voice;
  voice.rate = 44'100;
  voice.notes = {{0.2, 1.2, 60.3}};
  const auto x = voice.samples();
  EXPECT_NEAR(centreOf(corrected(x, toScale("chromatic"), {}, 44'100), 0.4, 1.2, 44'100), centsOfMidi(60), 2);
}

TEST(Correction, AHalfKeptCentreGoesHalfWay) {
  MadeVoice voice;
  voice.notes = {{0.2, 1.2, 60.4}};
  auto s = toScale("chromatic");
  s.keepCentre = 50;
  EXPECT_NEAR(centreOf(corrected(voice.samples(), s), 0.4, 1.2), centsOfMidi(60.2), 2);
}

TEST(Correction, WithAllKeptTheRecordingStaysToTheBit) {
  MadeVoice voice;
  voice.notes = {{0.2, 0.6, 60.4}, {0.8, 0.6, 63.7}};
  const auto x = voice.samples();
  auto s = toScale("chromatic");
  s.keepCentre = 100;
  EXPECT_EQ(corrected(x, s), x);
}

TEST(Correction, OneNoteIsMovedAndAllElseIsTheRecordingToTheBit) {
  MadeVoice voice;
  voice.seconds = 3;
  voice.notes = {{0.2, 0.6, 60}, {0.8, 0.6, 64}, {1.4, 0.6, 67}, {2.2, 0.6, 60}};
  const auto x = voice.samples();
  const auto track = test::heardPitch(x);
  const auto notes = notesOf(track, x, 48'000, {}, test::unwatched());
  ASSERT_EQ(notes.size(), 4U);
  std::vector<NoteWish> wishes(4);
  wishes[1].target = centsOfMidi(64.3);
  const auto y = corrected(x, TuneSettings{}, wishes);
  EXPECT_NEAR(centreOf(y, 0.95, 1.3), centsOfMidi(64.3), 2);
  for (std::size_t i = 0; i < x.size(); ++i)
    if (const double t = static_cast<double>(i) / 48'000; t < 0.7 || t > 1.5) ASSERT_EQ(x[i], y[i]) << t;
}

TEST(Correction, JointsWithWhatIsLeftAloneAreNoSteps) {
  MadeVoice voice;
  voice.seconds = 3;
  voice.notes = {{0.2, 0.6, 60}, {0.8, 0.6, 62}, {1.4, 0.6, 64}};
  const auto x = voice.samples();
  std::vector<NoteWish> wishes(3);
  for (double cents = -300; cents <= 300; cents += 37) {
    wishes[1].target = centsOfMidi(62) + cents;
    EXPECT_LT(steepest(corrected(x, TuneSettings{}, wishes)), 1.15F * steepest(x)) << cents;
  }
}

// A voice that slides from note to note for a quarter of a second.
MadeVoice sliding() {
  MadeVoice voice;
  voice.seconds = 2.2;
  voice.notes = {{0.2, 1.8, 60}};
  voice.bend = [](double t) { return 400 / (1 + std::exp(-(t - 1.1) / 0.04)); };
  return voice;
}

double secondsBetween(const std::vector<float>& x, double low, double high) {
  const auto track = test::heardPitch(x);
  double from = 0;
  for (std::size_t t = 100; t < track.values.size(); ++t) {
    if (!track.values[t].sounds()) continue;
    const double cents = centsOf(track.values[t].hertz) - centsOfMidi(60);
    const double at = static_cast<double>(t) * PitchTrack::kHop;
    if (cents < low) from = at;
    if (cents > high) return at - from;
  }
  return 0;
}

TEST(Correction, AGlideTakesAsMuchOfItsTimeAsIsKept) {
  const auto x = sliding().samples();
  auto s = toScale("chromatic");
  s.keepWander = 100;
  const double sung = secondsBetween(x, 60, 340);
  ASSERT_GT(sung, 0.1);
  s.keepGlide = 100;
  const double whole = secondsBetween(corrected(x, s), 60, 340);
  EXPECT_NEAR(whole, sung, 0.03);
  s.keepGlide = 30;
  const double quick = secondsBetween(corrected(x, s), 60, 340);
  EXPECT_LT(quick, 0.65 * whole);
}

TEST(Correction, ATransposedLineGoesUpWholeAndKeepsItsVoice) {
  MadeVoice voice;
  voice.seconds = 3;
  voice.notes = {{0.2, 1.0, 60.3}, {1.5, 1.0, 62.2}};
  const auto x = voice.samples();
  for (const double cents : {-500.0, 300.0, 700.0}) {
    TuneSettings s;
    s.transpose = cents;
    auto y = corrected(x, s);
    EXPECT_NEAR(centreOf(y, 0.4, 1.1), centsOfMidi(60.3) + cents, 3) << cents;
    EXPECT_NEAR(centreOf(y, 1.7, 2.4), centsOfMidi(62.2) + cents, 3) << cents;
    // With the plan on, notes go to the scale first.
    s = toScale("chromatic");
    s.transpose = cents;
    EXPECT_NEAR(centreOf(corrected(x, s), 1.7, 2.4), centsOfMidi(62) + cents, 3) << cents;
  }
}

TEST(Correction, ANotesOwnValuesHoldForItAlone) {
  MadeVoice voice;
  voice.seconds = 3;
  voice.notes = {{0.2, 1.0, 60.3}, {1.5, 1.0, 62.3}};
  const auto x = voice.samples();
  std::vector<NoteWish> wishes(2);
  wishes[1].own[0] = 50;  // keep half of the centre
  const auto y = corrected(x, toScale("chromatic"), wishes);
  EXPECT_NEAR(centreOf(y, 0.4, 1.1), centsOfMidi(60), 2);
  EXPECT_NEAR(centreOf(y, 1.7, 2.4), centsOfMidi(62.15), 2);
  // Also while the plan is off.
  const auto z = corrected(x, TuneSettings{}, wishes);
  EXPECT_NEAR(centreOf(z, 0.4, 1.1), centsOfMidi(60.3), 2);
  EXPECT_NEAR(centreOf(z, 1.7, 2.4), centsOfMidi(62.15), 2);
}

TEST(Correction, NotesMovedApartThatTouchAreJoinedWithoutASharpEdge) {
  // What changes passes through nothing between them.
  MadeVoice voice;
  voice.seconds = 2;
  voice.notes = {{0.2, 0.7, 60}, {0.9, 0.7, 60.9}};
  const auto x = voice.samples();
  std::vector<NoteWish> wishes(2);
  for (double cents = -60; cents <= 60; cents += 15) {
    wishes[0].target = centsOfMidi(60) + cents;
    wishes[1].target = centsOfMidi(60.9) - cents;
    const auto y = corrected(x, TuneSettings{}, wishes);
    EXPECT_LT(steepest(y), 1.1F * steepest(x)) << cents;
    EXPECT_NEAR(centreOf(y, 0.4, 0.8), centsOfMidi(60) + cents, 2) << cents;
    EXPECT_NEAR(centreOf(y, 1.05, 1.5), centsOfMidi(60.9) - cents, 2) << cents;
  }
}

TEST(Correction, AVibratoIsKeptOrStraightenedAsAsked) {
  MadeVoice voice;
  voice.notes = {{0.1, 1.7, 62.3}};
  voice.bend = [](double t) { return 50 * std::sin(2 * M_PI * 5.5 * t); };
  const auto x = voice.samples();
  auto s = toScale("chromatic");
  EXPECT_NEAR(spreadOf(corrected(x, s), 0.4, 1.5), spreadOf(x, 0.4, 1.5), 4);
  s.keepVibrato = 0;
  EXPECT_LT(spreadOf(corrected(x, s), 0.4, 1.5), 0.25 * spreadOf(x, 0.4, 1.5));
}

TEST(Correction, WanderIsTakenOutWithoutTheVibrato) {
  MadeVoice voice;
  voice.notes = {{0.1, 1.7, 62}};
  voice.bend = [](double t) { return 25 * std::sin(2 * M_PI * 0.9 * t) + 25 * std::sin(2 * M_PI * 6 * t); };
  const auto x = voice.samples();
  auto s = toScale("chromatic");
  s.keepWander = 0;
  const auto parts = [](const std::vector<float>& sound) {
    const auto track = test::heardPitch(sound);
    const auto notes = notesOf(track, sound, 48'000, {}, test::unwatched());
    EXPECT_EQ(notes.size(), 1U);
    return partsOf(track, notes.at(0));
  };
  const auto extent = [](const std::vector<double>& c) {
    const auto [low, high] = std::minmax_element(c.begin(), c.end());
    return *high - *low;
  };
  const auto before = parts(x);
  const auto after = parts(corrected(x, s));
  EXPECT_GT(extent(before.wander), 40);
  EXPECT_LT(extent(after.wander), 0.3 * extent(before.wander));
  EXPECT_NEAR(after.vibratoCents, before.vibratoCents, 3);
  EXPECT_NEAR(after.vibratoHertz, 6, 0.3);
}

TEST(Correction, LeftAloneWithinAndMovedAtMost) {
  MadeVoice voice;
  voice.notes = {{0.2, 0.6, 60.08}, {1.0, 0.6, 62.4}};
  const auto x = voice.samples();
  const auto track = test::heardPitch(x);
  auto s = toScale("chromatic");
  s.tolerance = 12;
  s.largestMove = 25;
  const auto notes = tuned(track, notesOf(track, x, 48'000, {}, test::unwatched()), s);
  ASSERT_EQ(notes.size(), 2U);
  EXPECT_EQ(notes[0].after, notes[0].parts.centre);
  EXPECT_NEAR(notes[1].after, notes[1].parts.centre - 25, 1e-9);
}

TEST(Correction, FormantsStayWhenTheNoteMoves) {
  MadeVoice voice;
  voice.notes = {{0.1, 1.8, 50}};
  const auto x = voice.samples();
  const auto power = [](const std::vector<float>& s, double hertz) {
    return powerAt(std::span(s).subspan(24'000, 48'000), hertz, 48'000);
  };
  // The strongest harmonic is the one that is the strongest of a voice made at that pitch, beside the same formants.
  std::vector<NoteWish> wishes(1);
  for (const double semitones : {-5.0, -3.0, -2.0, 2.0, 4.0, 5.0, 7.0}) {
    const double midi = 50 + semitones;
    wishes[0].target = centsOfMidi(midi);
    const auto strongest = [&](const std::vector<float>& s) {
      const double f0 = 440 * std::exp2((midi - 69) / 12);
      int best = 1;
      for (int h = 2; h * f0 < 2000; ++h)
        if (power(s, h * f0) > power(s, best * f0)) best = h;
      return best;
    };
    MadeVoice anew;
    anew.notes = {{0.1, 1.8, midi}};
    EXPECT_EQ(strongest(corrected(x, TuneSettings{}, wishes)), strongest(anew.samples())) << semitones;
  }
}

TEST(Correction, StretchesStayApartAndInOrderForAnySettings) {
  MadeVoice voice;
  voice.seconds = 4;
  voice.notes = {{0.2, 0.5, 60.2}, {0.7, 0.4, 62.4}, {1.3, 0.9, 57.6}, {2.2, 0.3, 64.1}, {2.8, 0.9, 60.45}};
  voice.bend = [](double t) { return 20 * std::sin(2 * M_PI * 5 * t) + 15 * std::sin(2 * M_PI * 0.7 * t); };
  const auto x = voice.samples();
  const auto track = test::heardPitch(x);
  const auto notes = notesOf(track, x, 48'000, {}, test::unwatched());
  std::mt19937 dice(7);
  std::uniform_real_distribution<double> any(0, 1);
  for (int round = 0; round < 200; ++round) {
    auto s = toScale(any(dice) < 0.5 ? "C major" : "chromatic");
    for (const auto& n : kTuneNumbers) s.*n.field = n.range.low + (n.range.high - n.range.low) * any(dice);
    if (any(dice) < 0.7) s.formants = 0;
    s.on = any(dice) < 0.8;
    std::vector<NoteWish> wishes(notes.size());
    for (auto& w : wishes) {
      w.asSung = any(dice) < 0.3;
      if (any(dice) < 0.2) w.target = centsOfMidi(55 + 12 * any(dice));
      for (std::size_t i = 0; i < kNoteNumbers; ++i)
        if (const auto& r = kTuneNumbers[i].range; any(dice) < 0.2) w.own[i] = r.low + (r.high - r.low) * any(dice);
    }
    const auto to = tuned(track, notes, s, wishes);
    std::size_t end = 0;
    std::int64_t soundEnd = 0;
    for (const auto& m : movedStretches(track, to, s)) {
      ASSERT_GE(m.first, end);
      ASSERT_FALSE(m.cents.empty());
      end = m.first + m.cents.size();
      ASSERT_LE(end, track.values.size());
      ASSERT_EQ(m.formants.size(), m.cents.size());
      for (const double c : m.cents) ASSERT_TRUE(std::isfinite(c));
      for (const double c : m.formants) ASSERT_TRUE(std::isfinite(c));
      if (round % 10 != 0) continue;
      const auto sound = tunedSound({x}, x, 48'000, {}, track, m);
      if (sound.channels.empty()) continue;
      ASSERT_GE(sound.start.value, soundEnd) << "one would be cut off by the other";
      soundEnd = sound.start.value + std::ssize(sound.channels[0]);
    }
  }
}

}  // namespace
}  // namespace ochron

// Notes that a pitch plan moves and that deserve a look: each doubt is found where it was put, and settled for good.

#include "checks/note_checks.h"

#include <gtest/gtest.h>

#include "checks/fix.h"
#include "edits/pitch_edits.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

struct NoteChecks : ::testing::Test {
  NoteChecks() {
    made = test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(48'000 * 10, 0.1F)}, {});
    line.track.values.resize(2000);
  }
  void sing(double midi, double sure = 0.98) {
    const double from = 0.5 + static_cast<double>(line.notes.size());
    const double hertz = 440 * std::exp2((midi - 69) / 12);
    for (auto t = static_cast<std::size_t>(from * 200); t < static_cast<std::size_t>((from + 0.8) * 200); ++t)
      line.track.values[t] = {hertz, sure};
    line.notes.push_back({from, from + 0.8, hertz});
  }
  Song song(const char* scale = "C major", bool on = true) {
    TuneSettings s;
    s.on = on;
    s.scale = *parseScale(scale);
    return *setTuning(*setLine(made.song, made.take, made.set, line), made.set, s);
  }
  test::MadeSong made;
  SungLine line;
};

TEST_F(NoteChecks, NotesNearTheirPitchAreNotListed) {
  for (const double midi : {60.2, 62.1, 63.8, 65.0}) sing(midi);
  EXPECT_TRUE(noteChecksOf(song(), made.set).empty());
}

TEST_F(NoteChecks, EachDoubtIsFoundWhereItWasPut) {
  sing(60.1);
  sing(61.0);       // a semitone from both C and D
  sing(62.1, 0.6);  // hardly voiced
  sing(62.1);
  sing(74.1);  // an octave above both neighbours
  sing(62.05);
  const auto found = noteChecksOf(song(), made.set);
  ASSERT_EQ(found.size(), 3U);
  EXPECT_EQ(found[0].note, nameOf(made.take, line.notes[1]));
  EXPECT_EQ(found[0].kind, CheckKind::betweenPitches);
  ASSERT_EQ(found[0].also.size(), 1U);
  EXPECT_EQ(found[0].also[0], CheckKind::farPitch);
  EXPECT_EQ(found[1].kind, CheckKind::unsureNote);
  EXPECT_EQ(found[2].kind, CheckKind::octaveDoubt);
  EXPECT_EQ(found[2].note, nameOf(made.take, line.notes[4]));
  EXPECT_EQ(found[1].at, Frames{static_cast<std::int64_t>(2.5 * 48'000)});
}

TEST_F(NoteChecks, WithoutAPlanNothingIsMovedAndNothingListed) {
  sing(61.0);
  EXPECT_TRUE(noteChecksOf(song("C major", false), made.set).empty());
}

TEST_F(NoteChecks, AFarMoveIsSaidAndAFartherOneThatItMaySuffer) {
  sing(61.0);
  auto s = song("C minor pentatonic");
  auto found = noteChecksOf(s, made.set);
  ASSERT_FALSE(found.empty());
  line = {};
  line.track.values.resize(2000);
  sing(66.0);
  // A scale of one pitch an octave: six semitones away.
  TuneSettings one;
  one.on = true;
  one.scale.steps = {0};
  s = *setTuning(*setLine(made.song, made.take, made.set, line), made.set, one);
  found = noteChecksOf(s, made.set);
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].kind, CheckKind::pitchSuffers);
}

TEST_F(NoteChecks, AcceptedFixedOrMovedByHandItIsNotListedAgain) {
  sing(61.0);
  const auto s = song();
  const auto check = noteChecksOf(s, made.set).at(0);
  EXPECT_TRUE(noteChecksOf(*acceptCheck(s, check), made.set).empty());
  const auto fixed = fixCheck(s, made.set, check, made.pool);
  ASSERT_TRUE(fixed);
  EXPECT_TRUE(wishFor(*fixed->find(made.set)->pitch, made.take, line.notes[0]).asSung);
  EXPECT_TRUE(noteChecksOf(*fixed, made.set).empty());
  NoteWish wish;
  wish.target = centsOf(440);
  EXPECT_TRUE(noteChecksOf(*setNoteWishes(s, made.set, {{*check.note, wish}}), made.set).empty());
}

}  // namespace
}  // namespace ochron

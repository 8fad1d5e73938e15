// Notes split, joined, moved in time and silenced: what is beside them stays where it was.

#include "edits/note_edits.h"

#include <gtest/gtest.h>

#include <random>

#include "edits/note_places.h"
#include "edits/pitch_edits.h"
#include "support/gated.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::atSeconds;

/// A line of four notes, the middle two sung without a break; its notes are at 60, 62, 64 and 65.
struct NoteEdits : ::testing::Test {
  NoteEdits() {
    made = test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(48'000 * 5, 0.1F)}, {});
    SungLine line;
    line.track.values.resize(1000);
    const auto sing = [&](double from, double to, double midi) {
      const double hertz = 440 * std::exp2((midi - 69) / 12);
      for (auto t = static_cast<std::size_t>(from * 200); t < static_cast<std::size_t>(to * 200); ++t)
        line.track.values[t] = {hertz, 0.95};
      line.notes.push_back({from, to, hertz});
    };
    sing(0.5, 1.0, 60);
    sing(1.5, 2.0, 62);
    sing(2.0, 2.8, 64);
    sing(3.5, 4.2, 65);
    song = *setLine(made.song, made.take, made.set, line);
  }
  const SungLine& line(const Song& s) const { return *s.lineOf(made.take, made.set); }
  NoteName name(std::size_t i) const { return nameOf(made.take, line(song).notes.at(i)); }
  /// Where a place of the take is heard, s.
  double heard(const Song& s, double take) const {
    for (const auto& c : *s.find(made.set)->clips)
      if (c.played().contains(atSeconds(take))) return static_cast<double>(c.toSong(atSeconds(take)).value) / 48'000;
    return -1;
  }
  test::MadeSong made;
  Song song;
};

TEST_F(NoteEdits, ANoteIsSplitWhereItIsWanted) {
  const auto next = splitNote(song, made.set, name(3), 3.8);
  ASSERT_TRUE(next);
  ASSERT_EQ(line(*next).notes.size(), 5U);
  EXPECT_EQ(line(*next).notes[3].end, 3.8);
  EXPECT_EQ(line(*next).notes[4].start, 3.8);
  EXPECT_EQ(line(*next).notes[4].end, 4.2);
  EXPECT_TRUE(line(*next).notes[3].byHand && line(*next).notes[4].byHand);
}

TEST_F(NoteEdits, APartTooShortToBeANoteIsRefused) {
  EXPECT_FALSE(splitNote(song, made.set, name(3), 3.51));
  EXPECT_FALSE(splitNote(song, made.set, name(3), 4.19));
  EXPECT_FALSE(splitNote(song, made.set, name(3), 1.0));
}

TEST_F(NoteEdits, NotesThatFollowEachOtherAreJoinedAndTheFirstOnesWishHolds) {
  NoteWish higher;
  higher.target = 6'700;
  song = *setNoteWishes(song, made.set, {{name(1), higher}, {name(2), NoteWish{{}, true}}});
  const auto next = joinNotes(song, made.set, {name(2), name(1)});
  ASSERT_TRUE(next);
  ASSERT_EQ(line(*next).notes.size(), 3U);
  EXPECT_EQ(line(*next).notes[1].start, 1.5);
  EXPECT_EQ(line(*next).notes[1].end, 2.8);
  EXPECT_EQ(next->find(made.set)->pitch->wishes.size(), 1U);
  EXPECT_EQ(wishFor(*next->find(made.set)->pitch, made.take, line(*next).notes[1]).target, 6'700);
}

TEST_F(NoteEdits, WithANoteInBetweenNothingIsJoined) {
  EXPECT_FALSE(joinNotes(song, made.set, {name(0), name(2)}));
  EXPECT_FALSE(joinNotes(song, made.set, {name(0)}));
}

TEST_F(NoteEdits, WhatWasSplitOrJoinedSurvivesANewHearing) {
  const auto again = line(song);
  auto next = *joinNotes(*splitNote(song, made.set, name(3), 3.8), made.set, {name(1), name(2)});
  next = *setLine(next, made.take, made.set, again);
  ASSERT_EQ(line(next).notes.size(), 4U);
  EXPECT_EQ(line(next).notes[0].end, 1.0);
  EXPECT_EQ(line(next).notes[1].end, 2.8);
  EXPECT_EQ(line(next).notes[2].end, 3.8);
  EXPECT_EQ(line(next).notes[3].start, 3.8);
}

TEST_F(NoteEdits, AMovedNoteKeepsItsLengthAndItsNeighboursTheirFarEnds) {
  const auto next = moveNotes(song, made.set, {name(3)}, NotePart::whole, atSeconds(0.1), PinReach::neighbours);
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_NEAR(heard(*next, 3.5), 3.6, 1e-4);
  EXPECT_NEAR(heard(*next, 4.19), 4.29, 1e-4);
  EXPECT_NEAR(heard(*next, 2.8), 2.8, 1e-4) << "the note before ends where it ended";
  EXPECT_NEAR(heard(*next, 2.0), 2.0, 1e-4);
  EXPECT_NEAR(heard(*next, 4.9), 4.9, 0.05);
}

TEST_F(NoteEdits, OfANoteSungOnTheNextGivesWayAndEndsWhereItEnded) {
  const auto next = moveNotes(song, made.set, {name(1)}, NotePart::whole, atSeconds(0.08), PinReach::neighbours);
  ASSERT_TRUE(next);
  EXPECT_NEAR(heard(*next, 1.5), 1.58, 1e-4);
  EXPECT_NEAR(heard(*next, 2.0), 2.08, 1e-4);
  EXPECT_NEAR(heard(*next, 2.8), 2.8, 1e-4);
}

TEST_F(NoteEdits, AnEndMovesAloneAndWhatFollowsHoldsOrComesAlong) {
  auto next = moveNotes(song, made.set, {name(2)}, NotePart::end, atSeconds(0.2), PinReach::neighbours);
  ASSERT_TRUE(next);
  EXPECT_NEAR(heard(*next, 2.0), 2.0, 1e-4);
  EXPECT_NEAR(heard(*next, 2.8), 3.0, 1e-4);
  EXPECT_NEAR(heard(*next, 3.5), 3.5, 1e-4);
  next = moveNotes(song, made.set, {name(2)}, NotePart::end, atSeconds(0.2), PinReach::following);
  ASSERT_TRUE(next);
  EXPECT_NEAR(heard(*next, 2.8), 3.0, 1e-4);
  EXPECT_NEAR(heard(*next, 3.5), 3.7, 1e-4);
  EXPECT_NEAR(heard(*next, 4.2), 4.4, 1e-4);
}

TEST_F(NoteEdits, ABeginningAtAHitIsTheHit) {
  auto hit = song;
  Hit h;
  h.id = hit.newId<HitTag>();
  h.at = atSeconds(3.488);
  h.confidence = 1;
  h.origin = HitOrigin::user;
  hit.takes.front().facts.front().hits = HitList{h};
  const auto [start, end] = NotePlaces(hit, *hit.find(made.set), made.take).of(3);
  EXPECT_EQ(start, atSeconds(3.488));
  EXPECT_EQ(end, atSeconds(4.2));
}

TEST_F(NoteEdits, SilencedNotesComeBackByTheSameCommand) {
  const auto silent = silenceNotes(song, made.set, {name(0), name(3)});
  ASSERT_TRUE(silent);
  ASSERT_EQ(silent->spans.size(), 2U);
  EXPECT_EQ(silent->spans[0].range, (FrameRange{atSeconds(0.5), atSeconds(1.0)}));
  const auto both = silenceNotes(*silent, made.set, {name(0), name(1)});
  ASSERT_TRUE(both);
  EXPECT_EQ(both->spans.size(), 3U) << "one was silent already";
  const auto back = silenceNotes(*silent, made.set, {name(3), name(0)});
  ASSERT_TRUE(back);
  EXPECT_TRUE(back->spans.empty());
}

TEST_F(NoteEdits, WhatIsLockedIsNotSplitAndNotMoved) {
  song.sets.front().locked = true;
  EXPECT_FALSE(test::gated(song, splitNote(song, made.set, name(3), 3.8)));
  EXPECT_FALSE(test::gated(song, joinNotes(song, made.set, {name(1), name(2)})));
  EXPECT_FALSE(
      test::gated(song, moveNotes(song, made.set, {name(3)}, NotePart::whole, atSeconds(0.1), PinReach::neighbours)));
}

TEST_F(NoteEdits, AnySequenceOfEditsKeepsNotesInOrderAndTheSongWhole) {
  std::mt19937 dice(11);
  const auto roll = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(dice); };
  for (int round = 0; round < 40; ++round) {
    Song now = song;
    for (int step = 0; step < 12; ++step) {
      const auto& notes = line(now).notes;
      const auto at = roll(notes.size());
      const auto which = nameOf(made.take, notes[at]);
      Result<Song> next = now;
      switch (roll(4)) {
        case 0:
          next = splitNote(now, made.set, which, notes[at].start + 0.02 * static_cast<double>(1 + roll(30)));
          break;
        case 1: {
          const auto other = nameOf(made.take, notes[std::min(at + 1, notes.size() - 1)]);
          next = joinNotes(now, made.set, {which, other});
          break;
        }
        case 2:
          next = moveNotes(now, made.set, {which}, static_cast<NotePart>(roll(3)),
                           Frames{static_cast<std::int64_t>(roll(9'600)) - 4'800}, static_cast<PinReach>(roll(3)));
          break;
        default: next = silenceNotes(now, made.set, {which});
      }
      if (next) now = *next;
      ASSERT_TRUE(brokenRules(now).empty()) << brokenRules(now).front();
      const auto& after = line(now).notes;
      ASSERT_FALSE(after.empty());
      for (std::size_t i = 0; i < after.size(); ++i) {
        ASSERT_GT(after[i].end, after[i].start);
        if (i > 0) ASSERT_GE(after[i].start, after[i - 1].end);
      }
    }
  }
}

}  // namespace
}  // namespace ochron

// Places of a recording tied to the song by hand.

#include "edits/pin_edits.h"

#include <gtest/gtest.h>

#include <random>

#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "seams/apply_plan.h"
#include "store/song_json.h"
#include "support/gated.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;

class PinEdits : public ::testing::Test {
 protected:
  PinEdits() {
    test::Style style;
    style.bars = 4;
    made_ = test::songOf(test::perform(style));
    clip_ = made_.song.find(made_.set)->clips->front().id;
    hits_ = activeHits(*made_.song.hitsOf(made_.take, made_.set), made_.song.find(made_.set)->hits, made_.song.rate);
  }
  const Clip& clipIn(const Song& song) const { return *song.find(clip_); }
  std::vector<float> sound(const Song& song, FrameRange range) {
    Progress progress;
    EXPECT_TRUE(makeMissing(song, made_.pool, store_, Frames{}, progress));
    const auto plan = compilePlan(song, made_.pool, nullptr, &store_);
    std::vector<float> out(static_cast<std::size_t>(range.length().value), 0.0F);
    addSegments(*plan.tracks[0].channels[0], range.start, out);
    return out;
  }
  Song planned(const Song& song, double strength, TimingMethod method = TimingMethod::slices) const {
    TimingPlan plan = *song.find(made_.set)->plan;
    plan.settings.on = true;
    plan.settings.strength = strength;
    plan.settings.method = method;
    return *applyTimingPlan(*setTimingPlan(song, made_.set, plan), made_.set, made_.pool);
  }

  test::MadeSong made_;
  ClipId clip_;
  HitList hits_;
  MadeStore store_;
};

TEST_F(PinEdits, AHitMovesWithAllItsStrokesWhicheverOfThemComesFirst) {
  const Frames early{-150}, late{200};
  auto all = *made_.song.hitsOf(made_.take, made_.set);
  for (auto& h : all)
    if (h.at == hits_[6].at)
      h.strokes = {{h.at, DrumClass::kick, 1}, {h.at + early, DrumClass::hat, 0.5}, {h.at + late, DrumClass::tom, 0.5}};
  const auto song = *setDetectedHits(made_.song, made_.take, made_.set, all);
  const auto lead = hits_[6].at;
  for (const auto chosen : {lead, lead + early, lead + late}) {
    const auto moved = movePins(song, clip_, {chosen}, Frames{-1'200}, PinReach::neighbours);
    ASSERT_TRUE(moved) << moved.error().message;
    const auto& clip = clipIn(*moved);
    for (const auto at : {lead, lead + early, lead + late})
      EXPECT_EQ((clip.toSong(at) - at).value, -1'200)
          << "chosen " << (chosen - lead).value << " at " << (at - lead).value;
    EXPECT_EQ(clip.toSong(hits_[5].at), hits_[5].at);
    EXPECT_EQ(clip.toSong(hits_[7].at), hits_[7].at);
  }
}

TEST_F(PinEdits, OneLateNoteMovedChangesNothingBeyondItsNeighbours) {
  const auto& before = hits_[5];
  const auto& note = hits_[6];
  const auto& after = hits_[7];
  const auto song = movePins(made_.song, clip_, {note.at}, f(-900), PinReach::neighbours);
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_TRUE(brokenRules(*song).empty());
  EXPECT_EQ(clipIn(*song).toSong(note.at), note.at - f(900));
  for (const auto& h : hits_)
    if (h.id != note.id) EXPECT_EQ(clipIn(*song).toSong(h.at), h.at);
  const auto end = clipIn(*song).end();
  const auto was = sound(made_.song, {f(0), end});
  const auto now = sound(*song, {f(0), end});
  for (std::size_t i = 0; i < was.size(); ++i) {
    const Frames at{static_cast<std::int64_t>(i)};
    if (at > before.at && at < after.at) continue;
    ASSERT_EQ(now[i], was[i]) << "at " << i;
  }
  for (std::int64_t k = 0; k < 200; ++k)  // its attack is the recording, moved
    ASSERT_EQ(now[static_cast<std::size_t>(note.at.value - 900 + k)], was[static_cast<std::size_t>(note.at.value + k)]);
}

TEST_F(PinEdits, WhatFollowsComesAlongWhenAsked) {
  const auto song = movePins(made_.song, clip_, {hits_[6].at}, f(2400), PinReach::following);
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_TRUE(brokenRules(*song).empty());
  for (std::size_t i = 0; i < hits_.size(); ++i)
    EXPECT_EQ(clipIn(*song).toSong(hits_[i].at), hits_[i].at + f(i < 6 ? 0 : 2400)) << i;
  EXPECT_EQ(clipIn(*song).length, clipIn(made_.song).length + f(2400));
}

TEST_F(PinEdits, BothSidesGiveWayEvenlyFromTheClipsEnds) {
  const auto song = movePins(made_.song, clip_, {hits_[8].at}, f(4000), PinReach::ends);
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_EQ(clipIn(*song).range(), clipIn(made_.song).range());
  const double middle = static_cast<double>(hits_[8].at.value);
  const auto end = static_cast<double>(clipIn(made_.song).end().value);
  for (const auto& h : hits_) {
    const auto at = static_cast<double>(h.at.value);
    const double by = 4000 * (at <= middle ? at / middle : (end - at) / (end - middle));
    EXPECT_NEAR(static_cast<double>(clipIn(*song).toSong(h.at).value), at + by, 200) << at;
  }
  EXPECT_EQ(clipIn(*song).toSong(hits_[8].at), hits_[8].at + f(4000));
}

TEST_F(PinEdits, APinStopsFourMillisecondsBeforeItsNeighbour) {
  const auto song = movePins(made_.song, clip_, {hits_[6].at}, f(1'000'000), PinReach::neighbours);
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_TRUE(brokenRules(*song).empty());
  const auto last = reachOf(hits_[6]).last;
  EXPECT_EQ(clipIn(*song).toSong(last), reachOf(hits_[7]).first - f(192));
}

TEST_F(PinEdits, SeveralMoveByTheSameFramesAndWhatLiesBetweenHolds) {
  const auto song = movePins(made_.song, clip_, {hits_[3].at, hits_[6].at}, f(300), PinReach::neighbours);
  ASSERT_TRUE(song) << song.error().message;
  for (std::size_t i = 0; i < hits_.size(); ++i)
    EXPECT_EQ(clipIn(*song).toSong(hits_[i].at), hits_[i].at + f(i == 3 || i == 6 ? 300 : 0)) << i;
}

TEST_F(PinEdits, TheEndOfANoteMakesItLongerBetweenItsOwnAttackAndTheNext) {
  const auto middle = f((hits_[6].at.value + hits_[7].at.value) / 2);
  const auto song = movePins(made_.song, clip_, {middle}, f(800), PinReach::neighbours);
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_EQ(clipIn(*song).toSong(middle), middle + f(800));
  for (const auto& h : hits_) EXPECT_EQ(clipIn(*song).toSong(h.at), h.at);
  const auto beside = stretchBeside(clipIn(*song), middle);
  EXPECT_GT(beside.before, 1.0);
  EXPECT_LT(beside.after, 1.0);
}

TEST_F(PinEdits, TakenAwayAgainTheClipIsAsRecorded) {
  const auto moved = movePins(made_.song, clip_, {hits_[6].at}, f(-900), PinReach::neighbours);
  ASSERT_TRUE(moved);
  const auto back = removePins(*moved, clip_, handPins(clipIn(*moved)));
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(clipIn(*back), clipIn(made_.song));
}

TEST_F(PinEdits, OneIsAddedWhereTheSoundIsAndChangesNothing) {
  const auto song = addPins(made_.song, clip_, {hits_[6].at + f(3000)});
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_FALSE(handPins(clipIn(*song)).empty());
  for (const auto& h : hits_) EXPECT_EQ(clipIn(*song).toSong(h.at), h.at);
  const auto end = clipIn(*song).end();
  EXPECT_EQ(sound(*song, {f(0), end}), sound(made_.song, {f(0), end}));
}

TEST_F(PinEdits, UnderAPlanTheyStayThroughItsChangesAndItsHitsStayItsOwn) {
  for (const auto method : {TimingMethod::slices, TimingMethod::stretch}) {
    const auto full = planned(made_.song, 100, method);
    const auto middle = f((hits_[6].at.value + hits_[7].at.value) / 2);
    const auto at = [&](const Song& song, Frames take) -> std::optional<Frames> {
      for (const auto& c : *song.find(made_.set)->clips)
        if (c.played().contains(take)) return c.toSong(take);
      return {};
    };
    const auto* piece = &made_.song.find(made_.set)->clips->front();
    for (const auto& c : *full.find(made_.set)->clips)
      if (c.played().contains(middle)) piece = &c;
    auto song = movePins(full, piece->id, {middle}, f(700), PinReach::neighbours);
    ASSERT_TRUE(song) << song.error().message;
    *song = *applyTimingPlan(*song, made_.set, made_.pool);
    EXPECT_TRUE(brokenRules(*song).empty());
    EXPECT_NEAR(static_cast<double>(at(*song, middle)->value), static_cast<double>(at(full, middle)->value + 700), 2);
    for (const auto& h : hits_) EXPECT_EQ(at(*song, h.at), at(full, h.at));
    // Another strength and back: the same sound places, and the pin is still there.
    const auto again = planned(planned(*song, 40, method), 100, method);
    EXPECT_EQ(at(again, middle), at(*song, middle));
    EXPECT_NE(at(planned(*song, 40, method), middle), at(planned(made_.song, 40, method), middle));
    const auto refused = movePins(*song, piece->id, {middle}, f(10), PinReach::following);
    EXPECT_FALSE(refused);
  }
}

TEST_F(PinEdits, OfATrimmedOrReversedClipMoveInSongTime) {
  auto song = *reverseClips(made_.song, {clip_});
  const auto was = clipIn(song).toSong(hits_[6].at);
  const auto moved = movePins(song, clip_, {hits_[6].at}, f(500), PinReach::neighbours);
  ASSERT_TRUE(moved) << moved.error().message;
  EXPECT_EQ(clipIn(*moved).toSong(hits_[6].at), was + f(500));
  EXPECT_TRUE(brokenRules(*moved).empty());
  EXPECT_FALSE(movePins(song, clip_, {hits_[6].at}, f(500), PinReach::following));
  // Trimmed to begin after the third hit: what is out of sight is no neighbour and no place to pin.
  const auto start = hits_[3].at + f(2000);
  auto trimmed = *splitAt(made_.song, made_.set, {start}, Frames{});
  const auto part = (*trimmed.find(made_.set)->clips)[1].id;
  const auto next = movePins(trimmed, part, {hits_[4].at}, f(-300), PinReach::neighbours);
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(next->find(part)->start, start);
  EXPECT_EQ(next->find(part)->toSong(hits_[4].at), hits_[4].at - f(300));
  EXPECT_EQ(next->find(part)->toSong(hits_[5].at), hits_[5].at);
  EXPECT_FALSE(movePins(trimmed, part, {hits_[1].at}, f(10), PinReach::neighbours));
}

TEST_F(PinEdits, APinInsideACrossfadeKeepsBothClipsInOrder) {
  auto song = *splitAt(made_.song, made_.set, {hits_[6].at - f(600)}, f(480));
  const auto& clips = *song.find(made_.set)->clips;
  ASSERT_EQ(clips.size(), 2U);
  const auto later = clips[1].id;
  const auto longer = movePins(song, clips[0].id, {hits_[4].at}, f(3000), PinReach::following);
  ASSERT_TRUE(longer) << longer.error().message;
  EXPECT_TRUE(brokenRules(*longer).empty());
  EXPECT_EQ(longer->find(clips[0].id)->length, clips[0].length + f(3000));
  EXPECT_EQ(longer->find(later)->end(), clips[1].end()) << "what it covers gives way, what lies behind stays";
}

TEST_F(PinEdits, AreRefusedWhereSomethingIsLocked) {
  const auto locked = lockRange(made_.song, made_.set, {hits_[5].at, hits_[8].at});
  ASSERT_TRUE(locked);
  EXPECT_FALSE(test::gated(*locked, movePins(*locked, clip_, {hits_[6].at}, f(500), PinReach::neighbours)));
  EXPECT_FALSE(movePins(made_.song, clip_, {f(-5)}, f(500), PinReach::neighbours));
}

TEST_F(PinEdits, AtAClipsVeryEndsAreRefusedAndSoIsAClipTooShortForThem) {
  EXPECT_FALSE(movePins(made_.song, clip_, {f(50)}, f(20), PinReach::neighbours));
  const auto end = clipIn(made_.song).played().end;
  EXPECT_FALSE(movePins(made_.song, clip_, {end - f(50)}, f(20), PinReach::following));
  const auto at = hits_[6].at;
  const auto cut = *splitAt(made_.song, made_.set, {at - f(100), at + f(100)}, Frames{});
  const auto sliver = (*cut.find(made_.set)->clips)[1].id;
  for (const auto reach : {PinReach::neighbours, PinReach::following, PinReach::ends})
    EXPECT_FALSE(movePins(cut, sliver, {at}, f(-5000), reach));
}

TEST_F(PinEdits, AnyNumberOfThemKeepTheRulesTheOthersPlacesAndSurviveSaving) {
  std::mt19937 dice(11);
  for (int round = 0; round < 12; ++round) {
    Song song = made_.song;
    for (int i = 0; i < 40; ++i) {
      const auto& clip = clipIn(song);
      const auto played = clip.played();
      const Frames take = played.start + f(static_cast<std::int64_t>(dice()) % played.length().value);
      const Frames by = f(static_cast<int>(dice() % 8001) - 4000);
      const auto kind = dice() % 6;
      const auto pins = handPins(clip);
      auto next = kind == 0 && !pins.empty() ? removePins(song, clip_, {pins[dice() % pins.size()]})
                  : kind == 1                ? addPins(song, clip_, {take})
                  : kind == 2 ? movePins(song, clip_, {hits_[dice() % hits_.size()].at}, by, PinReach::ends)
                  : kind == 3 ? movePins(song, clip_, {take}, by, PinReach::following)
                              : movePins(song, clip_, {take}, by, PinReach::neighbours);
      if (!next) continue;
      ASSERT_TRUE(brokenRules(*next).empty()) << brokenRules(*next).front() << " after an edit of kind " << kind
                                              << " at " << take.value << " by " << by.value;
      if (kind > 3) {
        std::vector<Frames> held;
        for (const auto& h : hits_) held.push_back(clipIn(song).toSong(h.at));
        int moved = 0;
        for (std::size_t k = 0; k < hits_.size(); ++k)
          if (clipIn(*next).toSong(hits_[k].at) != held[k]) ++moved;
        EXPECT_LE(moved, 1) << "only what lies between two neighbours may move";
      }
      song = *next;
    }
    const auto read = songFromJson(songToJson(song), "song.json");
    ASSERT_TRUE(read) << read.error().message;
    EXPECT_EQ(*read, song);
  }
}

}  // namespace
}  // namespace ochron

// Edits of clips by hand: where things are afterwards, to the frame.

#include <gtest/gtest.h>

#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "seams/apply_plan.h"
#include "support/gated.h"
#include "support/two_sets.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::TwoSets;

using test::f;

/// A performance with its timing plan carried out.
test::MadeSong planned() {
  auto m = test::songOf(test::perform({}));
  TimingPlan plan;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  return m;
}

TEST(Split, CutsManyPlacesAtOnceAndLeavesTheSoundWhereItWas) {
  TwoSets t;
  const auto next = *splitAt(t.song, t.kit, {f(3000), f(1000), f(2000), f(1000), f(9'000'000)}, f(96));
  const auto& clips = *next.find(t.kit)->clips;
  ASSERT_EQ(clips.size(), 4u);
  for (const auto& c : clips) EXPECT_EQ(c.shift(), f(0));
  EXPECT_EQ(clips[1].start, f(1000));
  EXPECT_EQ(clips[1].seam.before + clips[1].seam.after, f(96));
  EXPECT_EQ(next.find(t.bass)->clips, t.song.find(t.bass)->clips);
  EXPECT_FALSE(splitAt(t.song, t.kit, {f(9'000'000)}, f(96)));
}

TEST(Split, OfAReversedClipPlaysTheSameFramesInTheSameOrder) {
  TwoSets t;
  auto song = *reverseClips(t.song, {t.kitClip});
  const auto whole = *song.find(t.kitClip);
  song = *splitAt(song, t.kit, {f(1000)}, f(0));
  const auto& clips = *song.find(t.kit)->clips;
  for (const auto& c : clips) {
    EXPECT_EQ(c.toTake(c.start), whole.toTake(c.start));
    EXPECT_EQ(c.toTake(c.end() - f(1)), whole.toTake(c.end() - f(1)));
  }
}

TEST(Trim, StopsAtTheRecordingsEndAndAtTheNeighbour) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000)}, f(0));
  const auto second = (*song.find(t.kit)->clips)[1].id;
  EXPECT_EQ(trimStarts(song, {second}, f(-500))->find(second)->start, f(10'000));  // the neighbour is in the way
  song = *trimStarts(song, {second}, f(2000));
  EXPECT_EQ(song.find(second)->start, f(12'000));
  EXPECT_EQ(song.find(second)->source, f(12'000));
  song = *trimStarts(song, {second}, f(-5000));
  EXPECT_EQ(song.find(second)->start, f(10'000));
  EXPECT_EQ(trimEnds(song, {second}, f(1'000'000))->find(second)->end(), t.song.find(t.kitClip)->end());
}

TEST(Trim, OfAReversedClipTakesWhatIsPlayedThere) {
  TwoSets t;
  auto song = *reverseClips(t.song, {t.kitClip});
  const auto whole = *song.find(t.kitClip);
  song = *trimStarts(song, {t.kitClip}, f(700));
  const auto* c = song.find(t.kitClip);
  EXPECT_EQ(c->start, f(700));
  EXPECT_EQ(c->toTake(f(700)), whole.toTake(f(700)));
  song = *trimEnds(song, {t.kitClip}, f(-300));
  c = song.find(t.kitClip);
  EXPECT_EQ(c->toTake(c->end() - f(1)), whole.toTake(c->end() - f(1)));
  song = *trimEnds(*trimStarts(song, {t.kitClip}, f(-9'000'000)), {t.kitClip}, f(9'000'000));
  EXPECT_EQ(*song.find(t.kitClip), whole);
}

TEST(Trim, ClosingGapsMovesWhatFollowsAndNothingElse) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000), f(20'000)}, f(0));
  const auto ids = test::idsOf(song, t.kit);
  song = *trimEnds(song, {ids[0]}, f(-1000), true);
  EXPECT_EQ(song.find(ids[1])->start, f(9000));
  EXPECT_EQ(song.find(ids[2])->start, f(19'000));
  EXPECT_EQ(song.find(ids[1])->source, f(10'000));
  song = *trimStarts(song, {ids[1]}, f(500), true);
  EXPECT_EQ(song.find(ids[1])->start, f(9000));
  EXPECT_EQ(song.find(ids[1])->source, f(10'500));
  EXPECT_EQ(song.find(ids[2])->start, f(18'500));
}

TEST(Slip, MovesTheSoundInsideTheClipAsFarAsThereIsMaterial) {
  TwoSets t;
  auto song = *trimEnds(*trimStarts(t.song, {t.kitClip}, f(1000)), {t.kitClip}, f(-1000));
  const auto before = *song.find(t.kitClip);
  song = *slipClips(song, {t.kitClip}, f(400));
  EXPECT_EQ(song.find(t.kitClip)->range(), before.range());
  EXPECT_EQ(song.find(t.kitClip)->source, before.source - f(400));
  EXPECT_EQ(slipClips(song, {t.kitClip}, f(90'000))->find(t.kitClip)->source, f(0));
}

TEST(Slide, NeighboursFollowAndTheOuterEdgesStay) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000), f(20'000)}, f(0));
  const auto ids = test::idsOf(song, t.kit);
  const auto end = song.find(ids[2])->end();
  song = *slideClips(song, {ids[1]}, f(700));
  EXPECT_EQ(song.find(ids[0])->end(), f(10'700));
  EXPECT_EQ(song.find(ids[1])->start, f(10'700));
  EXPECT_EQ(song.find(ids[1])->source, f(10'000));
  EXPECT_EQ(song.find(ids[2])->start, f(20'700));
  EXPECT_EQ(song.find(ids[2])->source, f(20'700));
  EXPECT_EQ(song.find(ids[2])->end(), end);
  EXPECT_EQ(slideClips(song, {ids[1]}, f(-90'000))->find(ids[0])->length, f(1));
}

TEST(Move, OverlapBecomesACrossfadeOfItsLength) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000)}, f(0));
  const auto ids = test::idsOf(song, t.kit);
  song = *moveClips(song, {ids[1]}, f(-1000), Overlap::crossfade);
  const auto* a = song.find(ids[0]);
  const auto* b = song.find(ids[1]);
  EXPECT_EQ(a->end(), b->start);
  EXPECT_EQ(b->start, f(9500));
  EXPECT_EQ(b->seam.before, f(500));
  EXPECT_EQ(b->seam.after, f(500));
  EXPECT_EQ(b->shift(), f(-1000));
  EXPECT_TRUE(brokenRules(song).empty());
}

TEST(Move, ToAnotherTrackGoesOnPlayingItsOwnRecording) {
  TwoSets t;
  const auto song = *moveClipsAcross(t.song, {t.bassClip}, f(500), 1, Overlap::cover);
  EXPECT_TRUE(song.find(t.bass)->clips->empty());
  const auto& set = *song.find(t.voice);
  const auto& moved = *song.find(t.bassClip);
  const auto& home = *t.song.find(t.bass);
  EXPECT_EQ(song.micFor(set, moved, set.tracks[0])->media,
            t.song.micFor(home, *t.song.find(t.bassClip), home.tracks[0])->media);
  EXPECT_TRUE(brokenRules(song).empty());
  // And home again it is as if nothing had been.
  const auto back = *moveClipsAcross(song, {moved.id}, f(-500), -1, Overlap::cover);
  EXPECT_EQ(*back.find(t.bassClip), *t.song.find(t.bassClip));
  const auto refused = moveClipsAcross(t.song, {t.bassClip}, f(0), -1, Overlap::cover);
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find('3'), std::string::npos) << refused.error().message;
}

TEST(Delete, ClosingGapsMovesUpBySoMuch) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000), f(20'000)}, f(96));
  const auto ids = test::idsOf(song, t.kit);
  EXPECT_EQ(deleteClips(song, {ids[1]})->find(ids[2])->start, f(20'000));
  song = *deleteClips(song, {ids[1]}, true);
  EXPECT_EQ(song.find(ids[2])->start, f(10'000));
  EXPECT_EQ(deleteRange(song, {t.kit}, {f(2000), f(3000)}, true)->find(ids[2])->start, f(9000));
}

TEST(CloseGaps, MovesAClipUpToTheOneBefore) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000), f(20'000)}, f(0));
  const auto ids = test::idsOf(song, t.kit);
  song = *moveClips(song, {ids[1], ids[2]}, f(5000));
  song = *closeGapsBefore(song, {ids[1]});
  EXPECT_EQ(song.find(ids[1])->start, f(10'000));
  EXPECT_EQ(song.find(ids[2])->start, f(20'000));
}

TEST(Swap, InOneSetKeepsTheOuterEdges) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000), f(12'000)}, f(0));
  const auto ids = test::idsOf(song, t.kit);
  const auto end = song.end();
  song = *swapClips(song, ids[0], ids[2]);
  EXPECT_EQ(song.find(ids[2])->start, f(0));
  EXPECT_EQ(song.find(ids[0])->end(), end);
  EXPECT_EQ(song.find(ids[1])->length, f(2000));
  EXPECT_EQ(song.find(ids[1])->start, song.find(ids[2])->end());
  EXPECT_TRUE(brokenRules(song).empty());
}

TEST(Swap, BetweenTracksExchangesPlaces) {
  TwoSets t;
  const auto song = *swapClips(t.song, t.bassClip, t.voiceClip);
  EXPECT_TRUE(brokenRules(song).empty());
  ASSERT_EQ(song.find(t.bass)->clips->size(), 1u);
  ASSERT_EQ(song.find(t.voice)->clips->size(), 1u);
  EXPECT_EQ(song.find(t.bass)->clips->front().id, t.voiceClip);
  EXPECT_EQ(song.find(t.voice)->clips->front().id, t.bassClip);
}

TEST(Copy, PastedClipsAreTheSameElsewhereUnderNewNames) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000), f(20'000)}, f(96));
  const auto ids = test::idsOf(song, t.kit);
  const auto copied = *copyClips(song, {ids[0], ids[1]});
  const auto [next, fresh] = *pasteClips(song, copied, f(500'000), Overlap::cover);
  ASSERT_EQ(fresh.size(), 2u);
  EXPECT_EQ(next.find(fresh[0])->start, f(500'000));
  EXPECT_EQ(next.find(fresh[1])->start, f(510'000));
  EXPECT_EQ(next.find(fresh[1])->source, f(10'000));
  EXPECT_EQ(next.find(fresh[1])->seam, song.find(ids[1])->seam);
  EXPECT_TRUE(brokenRules(next).empty());
}

TEST(Copy, ARangeOverTracksKeepsItsSpacing) {
  TwoSets t;
  const auto copied = *copyRange(t.song, {t.kit, t.bass}, {f(1000), f(3000)});
  const auto [next, fresh] = *pasteClips(t.song, copied, f(400'000), Overlap::cover);
  EXPECT_EQ(fresh.size(), 2u);
  for (const auto id : fresh) {
    EXPECT_EQ(next.find(id)->range(), (FrameRange{f(400'000), f(402'000)}));
    EXPECT_EQ(next.find(id)->source, f(1000));
  }
}

TEST(Repeat, FillsUpToALengthAndCutsTheLastCopy) {
  TwoSets t;
  auto song = *splitAt(t.song, t.bass, {f(1000)}, f(0));
  const auto first = song.find(t.bass)->clips->front().id;
  song = repeatClips(song, {first}, f(3500))->song;
  const auto& clips = *song.find(t.bass)->clips;
  ASSERT_GE(clips.size(), 4u);
  EXPECT_EQ(clips[1].range(), (FrameRange{f(1000), f(2000)}));
  EXPECT_EQ(clips[3].range(), (FrameRange{f(3000), f(3500)}));
  EXPECT_EQ(clips[3].source, f(0));
  EXPECT_EQ(clips[4].start, f(3500));  // what was there goes on
  EXPECT_EQ(clips[4].source, f(3500));
  EXPECT_FALSE(duplicateClips(song, {first}, 0));
  EXPECT_FALSE(duplicateClips(song, {first}, 100'000));
}

TEST(Bundle, MovesCopiesAndComesApartExactlyAsBefore) {
  TwoSets t;
  const auto bundled = *bundleClips(t.song, {t.kitClip, t.bassClip}, "Intro");
  const auto id = bundled.bundles.front().id;
  EXPECT_EQ(clipsOf(bundled, id).size(), 2u);
  const auto copied = *copyClips(bundled, clipsOf(bundled, id));
  const auto pasted = pasteClips(bundled, copied, f(600'000), Overlap::cover)->song;
  EXPECT_EQ(pasted.bundles.size(), 2u);
  EXPECT_TRUE(brokenRules(pasted).empty());
  auto faded = bundled.bundles.front();
  faded.fadeIn.length = f(5000);
  auto apart = *unbundle(*setBundle(bundled, faded), id);
  apart.lastId = t.song.lastId;
  EXPECT_EQ(apart, t.song);
}

TEST(Fades, GoToManyClipsAtOnceAndFit) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(1000), f(20'000)}, f(96));
  const auto ids = test::idsOf(song, t.kit);
  song = *changeFades(song, ids, FadeEnd::in, [](const Clip&, Fade fade) { return fade.length = f(5000), fade; });
  EXPECT_EQ(song.find(ids[0])->fadeIn.length, f(1000));
  EXPECT_EQ(song.find(ids[1])->fadeIn.length, f(5000));
  EXPECT_EQ(song.find(ids[1])->seam, Seam{});  // the crossfade gave way
  EXPECT_TRUE(brokenRules(song).empty());
  song = *removeFades(song, ids);
  for (const auto id : ids) EXPECT_EQ(song.find(id)->fadeIn, Fade{});
}

TEST(Crossfade, ReachesAsFarAsBothHaveMaterial) {
  TwoSets t;
  auto song = *splitAt(t.song, t.kit, {f(10'000)}, f(0));
  const auto ids = test::idsOf(song, t.kit);
  song = *trimStarts(song, {ids[0]}, f(9000));
  const auto room = crossfadeRoom(song, ids[1]);
  EXPECT_EQ(room.before, f(1000));  // the earlier clip is no longer
  EXPECT_EQ(room.after, song.find(ids[1])->length);
  CrossfadeChange change;
  change.before = f(50'000), change.after = f(300), change.law = CrossfadeLaw::equalPower;
  song = *changeCrossfades(song, {ids[1]}, change);
  EXPECT_EQ(song.find(ids[1])->seam.before, f(1000));
  EXPECT_EQ(song.find(ids[1])->seam.after, f(300));
  EXPECT_EQ(song.find(ids[1])->seam.law, CrossfadeLaw::equalPower);
  const auto alone = changeCrossfades(t.song, {t.kitClip}, change);
  ASSERT_FALSE(alone);
  EXPECT_NE(alone.error().message.find("touch"), std::string::npos);
}

TEST(Crossfade, SaysWhenThereIsNoMaterial) {
  TwoSets t;  // two whole recordings put end to end
  const auto copied = *copyClips(t.song, {t.bassClip});
  const auto [song, fresh] = *pasteClips(t.song, copied, t.song.find(t.bassClip)->end(), Overlap::cover);
  CrossfadeChange change;
  change.before = f(100);
  const auto refused = changeCrossfades(song, fresh, change);
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("no recorded material"), std::string::npos) << refused.error().message;
}

TEST(Pieces, ChangedByHandLeaveThePlanAndStayAsTheyWereMade) {
  auto m = planned();
  const auto piece = (*m.song.find(m.set)->clips)[4];
  ASSERT_TRUE(piece.piece.has_value());
  auto song = *changeFades(m.song, {piece.id}, FadeEnd::out, [](const Clip&, Fade) { return Fade{f(400)}; });
  auto plan = *song.find(m.set)->plan;
  plan.settings.strength = 30;
  song = *applyTimingPlan(*setTimingPlan(song, m.set, plan), m.set, m.pool);
  const auto* now = song.find(piece.id);
  ASSERT_NE(now, nullptr);
  EXPECT_EQ(now->fadeOut.length, f(400));
  EXPECT_EQ(now->shift(), piece.shift());
}

TEST(Pieces, AWholeSetMovedKeepsItsPlan) {
  const auto m = planned();
  const auto bar = m.song.tempo.toFrames(m.song.tempo.barStart(1)) - m.song.tempo.toFrames(m.song.tempo.barStart(0));
  const auto before = *m.song.find(m.set)->clips;
  auto song = *moveClips(m.song, test::idsOf(m.song, m.set), bar);
  song = *applyTimingPlan(song, m.set, m.pool);
  const auto& after = *song.find(m.set)->clips;
  ASSERT_EQ(after.size(), before.size());
  for (std::size_t i = 0; i < after.size(); ++i) {
    EXPECT_TRUE(after[i].piece.has_value());
    EXPECT_EQ(after[i].start, before[i].start + bar) << i;
    EXPECT_EQ(after[i].source, before[i].source) << i;
  }
}

TEST(Pieces, ThatMoveAlongWhenAGapIsClosedStayThePlansAndDoNotComeBack) {
  const auto m = planned();
  const auto clips = *m.song.find(m.set)->clips;
  const auto bar = m.song.tempo.toFrames(m.song.tempo.barStart(1)) - m.song.tempo.toFrames(m.song.tempo.barStart(0));
  const auto from = m.song.tempo.toFrames(m.song.tempo.barStart(1));
  auto song = *deleteRange(m.song, {m.set}, {from, from + bar}, true);
  song = *applyTimingPlan(song, m.set, m.pool);
  EXPECT_TRUE(brokenRules(song).empty());
  // What was heard two bars in is now heard one bar in, at the same place of the bar.
  auto last = clips.back();
  const auto& now = song.find(m.set)->clips->back();
  EXPECT_TRUE(now.piece.has_value());
  EXPECT_EQ(now.source + now.length, last.source + last.length);
  EXPECT_EQ(now.shift(), last.shift() - bar);
}

TEST(Locks, HoldAgainstEveryEditByHand) {
  TwoSets t;
  const auto locked = *lockSet(t.song, t.bass, true);
  const Result<Song> tried[] = {moveClips(locked, {t.bassClip}, f(10)),
                                slipClips(*trimEnds(t.song, {t.kitClip}, f(-5)), {t.kitClip}, f(0)),
                                changeFades(locked, {t.bassClip}, FadeEnd::in, [](auto&, Fade) { return Fade{f(9)}; }),
                                reverseClips(locked, {t.bassClip}),
                                deleteRange(locked, {t.bass}, {f(10), f(20)}),
                                bundleClips(locked, {t.bassClip}, "x")};
  for (const std::size_t i : {0u, 2u, 3u, 4u, 5u}) {
    const auto made = test::gated(locked, tried[i]);
    ASSERT_FALSE(made) << i;
    EXPECT_NE(made.error().message.find("is locked"), std::string::npos) << i;
  }
}

}  // namespace
}  // namespace ochron

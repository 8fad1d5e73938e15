// Clips and whole sets at another pitch.

#include <gtest/gtest.h>

#include "edits/clip_edits.h"
#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/pitch_edits.h"
#include "edits/plan_edits.h"
#include "edits/stretch_edits.h"
#include "seams/apply_plan.h"
#include "support/gated.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

struct Transposed : ::testing::Test {
  test::MadeSong made = test::songOf(test::perform({}));
  ClipId clip = made.song.find(made.set)->clips->front().id;
  const Envelope& pitchIn(const Song& song) const { return song.find(clip)->extras->pitch; }
};

TEST_F(Transposed, ThereAndBackIsTheSameSong) {
  const auto up = transposeClips(made.song, {clip}, 350);
  ASSERT_TRUE(up) << up.error().message;
  ASSERT_EQ(pitchIn(*up).size(), 1U);
  EXPECT_EQ(pitchIn(*up).front().value, 350);
  EXPECT_EQ(up->find(clip)->range(), made.song.find(clip)->range()) << "its length stays";
  EXPECT_EQ(*transposeClips(*up, {clip}, -350), made.song);
}

TEST_F(Transposed, AnEnvelopeThatIsThereIsMovedAsAWhole) {
  const auto drawn = *setEnvelope(made.song, {EnvelopeKind::clipPitch, {}, clip},
                                  {{Frames{1000}, -100, 0.5}, {Frames{50'000}, 200, 0}});
  const auto down = *transposeClips(drawn, {clip}, -50);
  EXPECT_EQ(pitchIn(down), (Envelope{{Frames{1000}, -150, 0.5}, {Frames{50'000}, 150, 0}}));
}

TEST_F(Transposed, BeyondTwoOctavesOrALockItIsRefused) {
  EXPECT_FALSE(transposeClips(made.song, {clip}, 2500));
  const auto far = *transposeClips(made.song, {clip}, 2000);
  EXPECT_FALSE(transposeClips(far, {clip}, 500)) << "both together are too much";
  const auto locked = *lockSet(made.song, made.set, true);
  EXPECT_FALSE(test::gated(locked, transposeClips(locked, {clip}, 100)));
  EXPECT_FALSE(test::gated(locked, transposeSet(locked, made.set, 100)));
  EXPECT_FALSE(transposeSet(made.song, SetId{987}, 100));
}

TEST_F(Transposed, ASetStaysItsPlansWhateverThePlanDoesNext) {
  auto plan = *made.song.find(made.set)->plan;
  plan.settings.on = true;
  const auto planned = *applyTimingPlan(*setTimingPlan(made.song, made.set, plan), made.set, made.pool);
  const auto pieces = planned.find(made.set)->clips->size();
  ASSERT_GT(pieces, 3U);
  auto song = *applyTimingPlan(*transposeSet(planned, made.set, -200), made.set, made.pool);
  EXPECT_EQ(song.find(made.set)->clips->size(), pieces);
  plan.settings.strength = 50;
  song = *applyTimingPlan(*setTimingPlan(song, made.set, plan), made.set, made.pool);
  EXPECT_TRUE(brokenRules(song).empty());
  for (const auto& c : *song.find(made.set)->clips) {
    EXPECT_TRUE(c.piece.has_value());
    ASSERT_EQ(c.extras->pitch.size(), 1U);
    EXPECT_EQ(c.extras->pitch.front().value, -200);
  }
}

TEST_F(Transposed, ALineHeardAfterwardsTakesOverWhatItsClipsWereMovedBy) {
  SungLine line;
  line.notes = {{0.5, 1.5}};
  line.track.values.resize(400);
  const auto moved = *transposeSet(made.song, made.set, -400);
  EXPECT_EQ(pitchIn(moved).size(), 1U);
  const auto heard = *setLine(moved, made.take, made.set, line);
  const auto further = *transposeSet(heard, made.set, 150);
  EXPECT_TRUE(pitchIn(further).empty());
  EXPECT_EQ(further.find(made.set)->pitch->settings.transpose, -250);
  const auto back = *transposeSet(further, made.set, 250);
  EXPECT_EQ(back, *setLine(made.song, made.take, made.set, line)) << "as if it had never been moved";
  // What was drawn by hand stays the clip's.
  const auto drawn =
      *setEnvelope(heard, {EnvelopeKind::clipPitch, {}, clip}, {{Frames{0}, -100, 0}, {Frames{900}, 50, 0}});
  const auto above = *transposeSet(drawn, made.set, 100);
  EXPECT_EQ(pitchIn(above), (Envelope{{Frames{0}, 0, 0}, {Frames{900}, 150, 0}}));
  EXPECT_EQ(above.find(made.set)->pitch->settings.transpose, 0);
  EXPECT_FALSE(transposeSet(heard, made.set, -2300)) << "both together are too much";
}

TEST_F(Transposed, AMethodSaidOfOnePieceIsTheWholeClipsThroughThePlansRuns) {
  auto plan = *made.song.find(made.set)->plan;
  plan.settings.on = true;
  auto song = *applyTimingPlan(*setTimingPlan(made.song, made.set, plan), made.set, made.pool);
  const auto piece = (*song.find(made.set)->clips)[2].id;
  song = *applyTimingPlan(*setStretchMethod(song, {piece}, StretchMethod::chords), made.set, made.pool);
  for (const auto& c : *song.find(made.set)->clips) {
    EXPECT_TRUE(c.piece.has_value());
    EXPECT_EQ(c.extras->method, StretchMethod::chords);
  }
}

}  // namespace
}  // namespace ochron

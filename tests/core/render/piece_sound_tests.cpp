// Joints of clips that are more than the recording itself, measured as they sound.

#include "render/piece_sound.h"

#include <gtest/gtest.h>

#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/stretch_edits.h"
#include "render/made_store.h"
#include "seams/measure.h"
#include "support/tones.h"
#include "support/two_sets.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;

constexpr std::int64_t kPeriod = 100;  // frames of 480 Hz at 48 kHz
constexpr std::int64_t kCut = 100'000;
constexpr std::int64_t kFade = 960;

/// A bass that holds one tone, drawn out by a quarter and cut, the later piece slipped by some frames.
struct DrawnOut : test::TwoSets {
  MadeStore made;

  explicit DrawnOut(std::int64_t slipped) {
    pool[song.micOf(song.takes[0].id, song.find(bass)->tracks[0])->media] =
        DecodedMedia::fromSamples(48'000, {sine(480, 480'000)});
    auto& set = *std::find_if(song.sets.begin(), song.sets.end(), [&](const MicSet& s) { return s.id == bass; });
    set.method = StretchMethod::chords;
    ClipList clips = *set.clips;
    clips[0].map = TakeMap({{f(0), f(0)}, {f(480'000), f(600'000)}});
    clips[0].length = f(500'000);
    set.clips = std::move(clips);
    song = *splitAt(song, bass, {f(kCut)}, f(kFade));
    change(song, bass, [&](Clip& later) { later.source += f(slipped); });
  }
  /// Changes the second clip of a set; its joint fades in equal gain.
  static void change(Song& s, SetId id, const std::function<void(Clip&)>& how) {
    for (auto& set : s.sets) {
      if (set.id != id) continue;
      ClipList clips = *set.clips;
      how(clips[1]);
      clips[1].seam.law = CrossfadeLaw::equalGain;
      clips[1].seam.shape = FadeShape::line;
      clips[1].seam.bias = 0;
      set.clips = std::move(clips);
    }
  }
  std::map<ClipId, SeamMeasure> measured(SetId id) {
    Progress progress;
    return *measureSeams(song, id, pool, progress, pieceSound(song, id, pool, &made));
  }
  void make() {
    Progress progress;
    ASSERT_TRUE(makeMissing(song, pool, made, f(0), progress));
  }
};

TEST(PieceSound, OfAStretchedClipIsMeasuredOnceItIsMade) {
  DrawnOut t(kPeriod / 2);
  EXPECT_TRUE(t.measured(t.bass).empty()) << "a preview is not what will be heard";
  t.make();
  const auto got = t.measured(t.bass);
  ASSERT_EQ(got.size(), 1U);
  // Two tones against each other in equal gain: the power falls to a third.
  EXPECT_NEAR(got.begin()->second.levelDb, -4.77, 0.4);
  EXPECT_EQ(got.begin()->first, (*t.song.find(t.bass)->clips)[1].id);
}

TEST(PieceSound, APieceSlippedByAWholePeriodHoldsItsLevel) {
  DrawnOut t(kPeriod);
  t.make();
  const auto got = t.measured(t.bass);
  ASSERT_EQ(got.size(), 1U);
  EXPECT_NEAR(got.begin()->second.levelDb, 0, 0.3);
}

TEST(PieceSound, ACutThatWasLeftAloneIsNoStepWhateverIsMade) {
  DrawnOut t(0);
  const auto got = t.measured(t.bass);
  ASSERT_EQ(got.size(), 1U);
  EXPECT_EQ(got.begin()->second.levelDb, 0);
  EXPECT_EQ(got.begin()->second.steepness, 0);
}

TEST(PieceSound, OfReversedPiecesIsTheRecordingBackwards) {
  DrawnOut t(0);
  t.song = *splitAt(t.song, t.kit, {f(kCut)}, f(kFade));
  const auto ids = test::idsOf(t.song, t.kit);
  // What lies beyond its end is what its crossfade reaches into once it is turned round.
  t.song = *reverseClips(*trimEnds(t.song, {ids[1]}, f(-10'000)), {ids[1]});
  DrawnOut::change(t.song, t.kit, [](Clip& later) { later.seam.before = later.seam.after = f(kFade / 2); });
  Progress progress;
  EXPECT_TRUE(measureSeams(t.song, t.kit, t.pool, progress)->empty()) << "without its sound nothing is known";
  const auto got = t.measured(t.kit);
  ASSERT_EQ(got.size(), 1U);
  // Noise and other noise in equal gain: two thirds of the power.
  EXPECT_NEAR(got.begin()->second.levelDb, -1.76, 0.7);
  const auto& later = (*t.song.find(t.kit)->clips)[1];
  const auto sound = pieceSound(t.song, t.kit, t.pool, nullptr);
  const auto track = t.song.find(t.kit)->tracks[0];
  const FrameRange some{later.start + f(10), later.start + f(60)};
  const auto heard = sound(later, track, 0, some);
  ASSERT_EQ(heard.size(), 50U);
  for (std::size_t i = 0; i < heard.size(); ++i)
    ASSERT_EQ(
        heard[i],
        t.sound(track)[static_cast<std::size_t>(later.toTake(some.start + f(static_cast<std::int64_t>(i))).value)]);
}

TEST(PieceSound, AMutedPieceHasNoJoint) {
  DrawnOut t(kPeriod / 2);
  t.make();
  DrawnOut::change(t.song, t.bass, [](Clip& later) { later.muted = true; });
  EXPECT_TRUE(t.measured(t.bass).empty());
}

TEST(PieceSound, BeyondTheRecordingIsNotAtHand) {
  DrawnOut t(0);
  t.make();
  const auto& clips = *t.song.find(t.bass)->clips;
  const auto sound = pieceSound(t.song, t.bass, t.pool, &t.made);
  const auto track = t.song.find(t.bass)->tracks[0];
  EXPECT_TRUE(sound(clips[0], track, 0, {f(-50), f(50)}).empty());
  EXPECT_EQ(sound(clips[0], track, 0, {f(500), f(600)}).size(), 100U);
}

}  // namespace
}  // namespace ochron

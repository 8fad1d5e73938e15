#include <gtest/gtest.h>

#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/track_edits.h"
#include "song/envelope.h"
#include "support/gated.h"
#include "support/two_sets.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;
using test::TwoSets;

TEST(Envelope, IsStraightBetweenPointsAndLevelOutside) {
  const Envelope e{{f(100), -6, 0}, {f(200), 0, 0}};
  EXPECT_EQ(valueAt(e, f(0), 3), -6);
  EXPECT_DOUBLE_EQ(valueAt(e, f(150), 3), -3);
  EXPECT_EQ(valueAt(e, f(900), 3), 0);
  EXPECT_EQ(valueAt({}, f(5), 3), 3);
  EXPECT_LT(valueAt({{f(100), -6, -1}, {f(200), 0, 0}}, f(150), 0), -3);  // sets out late
}

TEST(Envelope, APieceTakenAndPutElsewhereLeavesTheRestAlone) {
  const Envelope e{{f(0), 0, 0}, {f(1000), -12, 0}, {f(2000), 0, 0}};
  const auto part = piece(e, {f(500), f(1500)}, 0);
  EXPECT_DOUBLE_EQ(valueAt(part, f(0), 0), -6);
  EXPECT_DOUBLE_EQ(valueAt(part, f(500), 0), -12);
  const auto pasted = withPiece(e, part, f(5000), f(1000), 0);
  for (const std::int64_t at : {0, 300, 1000, 1700, 2000, 4998, 6000, 9000})
    EXPECT_NEAR(valueAt(pasted, f(at), 0), valueAt(e, f(at), 0), 1e-9) << at;
  EXPECT_DOUBLE_EQ(valueAt(pasted, f(5500), 0), -12);
}

TEST(Markers, StaySortedAndMoveWithTheTempo) {
  TwoSets t;
  auto song = *addMarker(t.song, Ticks{kTicksPerQuarter * 8}, Ticks{}, "Chorus");
  song = *addMarker(song, Ticks{kTicksPerQuarter * 4}, Ticks{kTicksPerQuarter * 4}, "Verse");
  EXPECT_EQ(song.markers[0].name, "Verse");
  EXPECT_TRUE(brokenRules(song).empty());
  auto verse = song.markers[0];
  verse.at = Ticks{kTicksPerQuarter * 40};
  song = *setMarker(song, verse);
  EXPECT_EQ(song.markers[1].name, "Verse");
  EXPECT_EQ(removeMarker(song, verse.id)->markers.size(), 1u);
  EXPECT_FALSE(addMarker(song, Ticks{}, Ticks{-1}, "no"));
}

TEST(Spans, AreAddedMovedCopiedAndRefusedOnLockedTracks) {
  TwoSets t;
  const auto track = t.song.find(t.bass)->tracks[0];
  auto song = *addSpan(t.song, {track}, {f(1000), f(2000)}, "cough");
  song = *copySpan(song, song.spans[0].id, f(9000));
  ASSERT_EQ(song.spans.size(), 2u);
  EXPECT_EQ(song.spans[1].range, (FrameRange{f(9000), f(10'000)}));
  EXPECT_EQ(song.spans[1].label, "cough");
  EXPECT_FALSE(addSpan(song, {track}, {f(5), f(5)}, ""));
  EXPECT_FALSE(addSpan(song, {}, {f(5), f(9)}, ""));
  const auto locked = *lockSet(song, t.bass, true);
  EXPECT_FALSE(test::gated(locked, removeSpan(locked, song.spans[0].id)));
  EXPECT_TRUE(removeTracks(song, {track})->spans.empty());
}

TEST(SongFades, AreOneEditAndKeepWhatLiesBetween) {
  TwoSets t;
  auto song = *setEnvelope(t.song, {EnvelopeKind::songGain, {}, {}}, {{f(240'000), -3, 0}});
  song = *fadeSong(song, f(48'000), f(96'000));
  const auto& e = *song.gainEnvelope;
  EXPECT_EQ(valueAt(e, f(0), 0), kSilentDb);
  EXPECT_EQ(valueAt(e, f(48'000), 0), -3);
  EXPECT_EQ(valueAt(e, f(240'000), 0), -3);
  EXPECT_EQ(valueAt(e, f(480'000), 0), kSilentDb);
  EXPECT_FALSE(fadeSong(t.song, f(480'000), f(1)));
  EXPECT_FALSE(fadeSong(Song{}, f(1), f(1)));
}

TEST(SetEnvelope, HoldsValuesToTheirRange) {
  TwoSets t;
  const auto song = *setEnvelope(t.song, {EnvelopeKind::songSpeed, {}, {}}, {{f(9), 9999, 7}, {f(9), 50, 0}});
  ASSERT_EQ(song.speedEnvelope->size(), 1u);
  EXPECT_EQ(song.speedEnvelope->front().value, 50);
  EXPECT_TRUE(brokenRules(song).empty());
  EXPECT_FALSE(setEnvelope(t.song, {EnvelopeKind::clipGain, {}, ClipId{999}}, {}));
}

}  // namespace
}  // namespace ochron

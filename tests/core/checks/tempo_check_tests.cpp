// Anchors that deserve a look: beside the hit they were meant for, or where the tempo jumps.

#include "checks/tempo_checks.h"

#include <gtest/gtest.h>

#include "checks/fix.h"
#include "edits/anchor_edits.h"
#include "edits/tempo_edits.h"
#include "store/song_json.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::atSeconds;

struct TempoChecks : ::testing::Test {
  TempoChecks() { made = test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(48'000 * 20, 0.1F)}, {}); }
  Ticks bar(int n) const { return made.song.tempo.barStart(n); }
  Song anchored(const std::vector<double>& seconds) const {
    TempoAnchors anchors;
    for (std::size_t i = 0; i < seconds.size(); ++i)
      anchors.push_back({bar(static_cast<int>(i)), atSeconds(seconds[i])});
    const auto song = setAnchors(made.song, anchors);
    EXPECT_TRUE(song);
    return song ? *song : made.song;
  }
  /// One hit of the set at each place.
  static std::map<SetId, TimingResult> hitsAt(const std::vector<double>& seconds) {
    TimingResult t;
    for (const double s : seconds) {
      PlannedHit h;
      h.now = atSeconds(s);
      t.hits.push_back(h);
    }
    return {{SetId{1}, t}};
  }
  test::MadeSong made;
};

TEST_F(TempoChecks, AMapThatRunsEvenlyThroughItsHitsHasNothingToLookAt) {
  EXPECT_TRUE(tempoChecksOf(anchored({0, 2.02, 4.1, 6.2}), hitsAt({0, 2.02, 4.1, 6.2})).empty());
  EXPECT_TRUE(tempoChecksOf(made.song, hitsAt({0.02})).empty()) << "without anchors there is no map to doubt";
}

TEST_F(TempoChecks, AnAnchorBesideItsHitIsFoundAndBroughtThere) {
  const auto song = anchored({0, 2.0, 4.025, 6.0});
  const auto found = tempoChecksOf(song, hitsAt({0, 2.0, 4.0, 6.0}));
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].kind, CheckKind::anchorOff);
  EXPECT_EQ(found[0].bar, bar(2));
  EXPECT_EQ(found[0].at, atSeconds(4.025));
  EXPECT_TRUE(tempoChecksOf(*acceptCheck(song, found[0]), hitsAt({0, 2.0, 4.0, 6.0})).empty());
}

TEST_F(TempoChecks, AHitFarAwayIsNotTheAnchors) {
  EXPECT_TRUE(tempoChecksOf(anchored({0, 2.0, 4.0, 6.0}), hitsAt({0, 2.0, 4.2, 6.0})).empty());
}

TEST_F(TempoChecks, APauseIsAJumpOfTheTempoAndItsAnchorCanBeTakenAway) {
  const auto song = anchored({0, 2.0, 5.0, 7.0});
  const auto found = tempoChecksOf(song, {});
  ASSERT_EQ(found.size(), 2U);
  EXPECT_EQ(found[0].kind, CheckKind::tempoJump);
  EXPECT_EQ(found[0].bar, bar(1));
  EXPECT_EQ(found[1].bar, bar(2));
  const auto fixed = fixCheck(song, {}, found[0], made.pool);
  ASSERT_TRUE(fixed);
  EXPECT_EQ(fixed->anchors->size(), song.anchors->size() - 1);
}

TEST_F(TempoChecks, ABarBetweenTwoAttacksAsksWhichOneIsMeantAndTheOtherCanBeTaken) {
  const auto song = anchored({0, 2.0, 4.0, 6.0});
  const auto found = tempoChecksOf(song, hitsAt({0, 2.0, 3.975, 4.03, 6.0}));
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].kind, CheckKind::anchorTwoWays);
  EXPECT_EQ(found[0].detail, "25 ms before it and 30 ms after it: which one is the bar?");
  EXPECT_TRUE(tempoChecksOf(song, hitsAt({0, 2.0, 4.0, 4.03, 6.0})).empty()) << "it is tied to one of them";
  EXPECT_EQ(tempoChecksOf(song, hitsAt({0, 2.0, 3.985, 4.05, 6.0})).at(0).kind, CheckKind::anchorOff)
      << "one is much nearer";
}

TEST_F(TempoChecks, BarsThatWereCarriedOnThroughSilenceAreOneEntry) {
  const auto song = anchored({0, 2.0, 4.0, 6.0, 8.0, 10.0});
  const auto found = tempoChecksOf(song, hitsAt({0, 1, 2.0, 8.0, 9, 10.0}));
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].kind, CheckKind::carriedOn);
  EXPECT_EQ(found[0].bar, bar(2));
  EXPECT_TRUE(tempoChecksOf(song, hitsAt({0, 2.0, 4.0, 6.0, 8.0, 10.0})).empty());
  const auto fixed = fixCheck(song, {}, found[0], made.pool);
  ASSERT_TRUE(fixed);
  EXPECT_EQ(fixed->anchors->size(), song.anchors->size() - 1);
}

TEST_F(TempoChecks, AMapThatWasHeardInDoubtIsListedUntilItIsAcceptedChangedOrSetAnew) {
  const auto map = TempoMap::steady(made.song.rate, 87, {}, Frames{24'000});
  auto song = *setTempoMap(made.song, *map);
  EXPECT_TRUE(tempoChecksOf(withTempoDoubt(song, {0.8, 0.9, 174, {}}), {}).empty()) << "that is sure";
  song = withTempoDoubt(song, {0.6, 0.5, 174, Frames{48'000}});
  const auto found = tempoChecksOf(song, {});
  ASSERT_EQ(found.size(), 2U);
  EXPECT_EQ(found[0].kind, CheckKind::unsureTempo);
  EXPECT_EQ(found[0].detail, "60 % sure; it may be 174.00 BPM");
  EXPECT_EQ(found[1].kind, CheckKind::unsureBars);
  EXPECT_EQ(found[1].detail, "50 % sure; it may lie 0.500 s later");
  for (const auto& check : found) {
    EXPECT_EQ(groupOf(check.kind), CheckGroup::tempo);
    EXPECT_EQ(check.at, Frames{24'000});
  }
  const auto kept = songFromJson(songToJson(song), "song.json");
  ASSERT_TRUE(kept) << kept.error().message;
  EXPECT_EQ(kept->tempoDoubt, song.tempoDoubt);
  const auto accepted = acceptCheck(song, found[0]);
  ASSERT_TRUE(accepted);
  EXPECT_EQ(tempoChecksOf(*accepted, {}).size(), 1U);
  const auto faster = fixCheck(song, {}, found[0], made.pool);
  ASSERT_TRUE(faster);
  EXPECT_EQ(faster->tempo.bpmAt(Ticks{}), 174);
  EXPECT_EQ(faster->tempo.origin(), Frames{24'000});
  EXPECT_TRUE(tempoChecksOf(*faster, {}).empty());
  const auto later = fixCheck(song, {}, found[1], made.pool);
  ASSERT_TRUE(later);
  EXPECT_EQ(later->tempo.origin(), Frames{48'000});
  EXPECT_EQ(later->tempo.bpmAt(Ticks{}), 87);
  // A doubt that was accepted comes back with another tempo that is heard in doubt.
  const auto again = withTempoDoubt(*setTempoMap(*accepted, *map), {0.6, 0.5, 174, {}});
  EXPECT_EQ(tempoChecksOf(again, {}).size(), 2U);
}

TEST_F(TempoChecks, WhereNothingElseWasHeardThereIsNothingToTake) {
  const auto song = withTempoDoubt(made.song, {0.6, 0.5, 0, {}});
  const auto found = tempoChecksOf(song, {});
  ASSERT_EQ(found.size(), 2U);
  EXPECT_EQ(found[0].detail, "60 % sure");
  for (const auto& check : found) {
    const auto fixed = fixCheck(song, {}, check, made.pool);
    ASSERT_FALSE(fixed);
    EXPECT_NE(fixed.error().message.find("by hand"), std::string::npos);
  }
}

}  // namespace
}  // namespace ochron

#include <gtest/gtest.h>

#include <algorithm>

#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "edits/tempo_edits.h"
#include "feel/standing.h"
#include "feel/timings.h"
#include "seams/apply_plan.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

Song planned(const test::MadeSong& m, double strength) {
  TimingPlan plan = *m.song.sets[0].plan;
  plan.settings.on = true;
  plan.settings.strength = strength;
  return *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
}

TEST(Timings, AreThoseOfThePlanAfterEveryKindOfEdit) {
  const auto m = test::songOf(test::perform({}));
  Timings timings;
  const auto check = [&](const Song& song, const char* after) {
    EXPECT_EQ(timings.of(song, m.set), planTiming(song, m.set)) << after;
  };
  auto song = m.song;
  check(song, "nothing");
  song = planned(m, 100);
  check(song, "the plan");
  const auto base = timings.of(song, m.set);
  song = planned(m, 50);
  check(song, "half the strength");
  EXPECT_NE(timings.of(song, m.set), base);
  const auto lost = timings.of(song, m.set).hits[3];
  const auto then = [&](const Result<Song>& next, const char* after) {
    ASSERT_TRUE(next.has_value()) << after << ": " << next.error().message;
    song = *next;
    check(song, after);
  };
  then(removeHits(song, lost.take, m.set, {lost.hit.id}), "a hit removed");
  then(moveClips(song, {song.find(m.set)->clips->back().id}, Frames{5000}, Overlap::cover), "a clip moved");
  then(setTempoMap(song, *TempoMap::steady(48'000, 93)), "another tempo");
  HitSettings settings;
  settings.sensitivity = 20;
  then(setHitSettings(song, m.set, settings), "fewer hits");
  then(lockRange(song, m.set, {Frames{48'000}, Frames{96'000}}), "a lock");
  check(m.song, "all taken back");
}

TEST(Timings, StayWhereTheyAreWhileOtherThingsChange) {
  const auto m = test::songOf(test::perform({}));
  Timings timings;
  const auto* first = timings.of(m.song, m.set).hits.data();
  ASSERT_NE(first, nullptr);
  auto song = m.song;
  song.tracks[0].gainDb = -6;
  song.markers.push_back({});
  song.sets[0].name = "Kit";
  EXPECT_EQ(timings.of(song, m.set).hits.data(), first);
  song.sets[0].hits.minSpacingMs = 200;
  EXPECT_NE(timings.of(song, m.set).hits.data(), first);
}

TEST(Timings, OfASetThatIsGoneAreForgotten) {
  const auto m = test::songOf(test::perform({}));
  Timings timings;
  EXPECT_EQ(timings.all(m.song).count(m.set), 1u);
  EXPECT_TRUE(timings.all(Song()).empty());
  EXPECT_TRUE(timings.of(Song(), m.set).hits.empty());
}

TEST(StandingHits, StandWhereThePlanHasPutThem) {
  const auto m = test::songOf(test::perform({}));
  for (const double strength : {0.0, 60.0, 100.0}) {
    const auto song = planned(m, strength);
    const auto& set = *song.find(m.set);
    const auto standing = standingHits(song, set, *set.clips, {Frames{}, song.end()});
    std::size_t found = 0;
    for (const auto& p : planTiming(song, m.set).hits) {
      const auto s = std::find_if(standing.begin(), standing.end(), [&](auto& h) { return h.hit == p.hit.id; });
      if (s == standing.end()) continue;
      ++found;
      EXPECT_EQ(s->at, p.now) << "hit " << p.hit.id.value << " at " << strength << " %";
      EXPECT_EQ(s->heardOn, p.hit.heardBy.empty() ? TrackId() : p.hit.heardBy.front().track);
    }
    EXPECT_GE(found + 2, planTiming(song, m.set).hits.size()) << "only what a crossfade covers may be missing";
  }
}

TEST(StandingHits, OfAStretchAreThoseOfTheWholeThatLieThere) {
  const auto m = test::songOf(test::perform({}));
  const auto song = planned(m, 100);
  const auto& set = *song.find(m.set);
  const auto all = standingHits(song, set, *set.clips, {Frames{}, song.end()});
  for (std::int64_t from = 0; from < song.end().value; from += 77'777) {
    const FrameRange within{Frames{from}, Frames{from + 55'555}};
    std::vector<StandingHit> inside;
    for (const auto& h : all)
      if (within.contains(h.at)) inside.push_back(h);
    EXPECT_EQ(standingHits(song, set, *set.clips, within), inside) << from;
  }
}

TEST(StandingHits, AreNoneWhereAClipRunsBackwards) {
  const auto m = test::songOf(test::perform({}));
  const auto song = *reverseClips(m.song, {(*m.song.sets[0].clips)[0].id});
  EXPECT_TRUE(standingHits(song, song.sets[0], *song.sets[0].clips, {Frames{}, song.end()}).empty());
}

TEST(ActiveHits, InAStretchAreThoseOfTheWholeThatLieThere) {
  const auto m = test::songOf(test::perform({}));
  const auto& all = *m.song.hitsOf(m.song.takes[0].id, m.set);
  for (const double spacing : {5.0, 120.0, 400.0}) {
    HitSettings settings;
    settings.minSpacingMs = spacing;
    const auto whole = activeHits(all, settings, 48'000);
    for (std::int64_t from = 0; from < 600'000; from += 33'333) {
      const FrameRange within{Frames{from}, Frames{from + 40'000}};
      HitList inside;
      for (const auto& h : whole)
        if (within.contains(h.at)) inside.push_back(h);
      EXPECT_EQ(activeHits(all, settings, 48'000, within), inside) << spacing << " ms, from " << from;
    }
  }
}

}  // namespace
}  // namespace ochron

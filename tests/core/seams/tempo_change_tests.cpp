// A change of tempo carries everything that the grid holds: every set's plan, pins, spans, envelopes; locks are kept.
#include <gtest/gtest.h>

#include <cmath>

#include "feel/plan.h"
#include "seams/apply_plan.h"
#include "song/edits.h"
#include "song/mark_edits.h"
#include "support/song_maker.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

/// A performance whose four mics are two sets of two, each with hits of its own and a plan that is on.
struct TwoPlans {
  TwoPlans() {
    test::Style style;
    style.bars = 8;
    performance = test::perform(style);
    made = test::songOf(performance);
    auto song = *dissolveMicSet(made.song, made.set);
    const auto tracks = [&](std::size_t a, std::size_t b) { return std::vector{song.tracks[a].id, song.tracks[b].id}; };
    const auto kitTracks = tracks(0, 1);
    const auto restTracks = tracks(2, 3);
    song = *makeMicSet(song, kitTracks, "kit");
    song = *makeMicSet(song, restTracks, "rest");
    kit = song.setOf(kitTracks.front())->id;
    rest = song.setOf(restTracks.front())->id;
    for (const auto set : {kit, rest}) {
      HitList hits;
      for (const auto& p : performance.of({DrumClass::kick, DrumClass::snare})) {
        Hit h;
        h.at = p.at, h.strength = p.velocity, h.confidence = 1, h.drum = p.drum;
        hits.push_back(h);
      }
      song = *setDetectedHits(song, song.takes.front().id, set, hits);
      TimingPlan plan = *song.find(set)->plan;
      plan.settings.on = true;
      song = *setTimingPlan(song, set, plan);
      song = *applyTimingPlan(song, set, made.pool);
    }
    made.song = song;
  }
  /// Hits of a set's plan whose piece does not begin where a fresh plan on this song has them, in frames at worst.
  std::int64_t worst(const Song& song, SetId set) const {
    std::int64_t out = 0;
    for (const auto& h : planTiming(song, set).hits)
      for (const auto& c : *song.find(set)->clips)
        if (c.piece && c.piece->hit == h.hit.id) out = std::max(out, std::abs((h.hit.at + c.shift() - h.now).value));
    return out;
  }
  test::Performance performance;
  test::MadeSong made;
  SetId kit, rest;
};

TEST(TempoChange, EverySetsPlanIsCarriedOutAnew) {
  const TwoPlans t;
  EXPECT_EQ(t.worst(t.made.song, t.kit), 0);
  EXPECT_EQ(t.worst(t.made.song, t.rest), 0);
  const auto map = *TempoMap::steady(48'000, 112, {}, t.performance.map.origin());
  const auto next = carryToTempo(t.made.song, map, t.made.pool);
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(next->tempo, map);
  EXPECT_EQ(t.worst(*next, t.kit), 0);
  EXPECT_EQ(t.worst(*next, t.rest), 0) << "the set that is not looked at too";
  EXPECT_NE(*next->find(t.rest)->clips, *t.made.song.find(t.rest)->clips);
}

TEST(TempoChange, ThereAndBackIsTheSameSong) {
  const TwoPlans t;
  const auto there =
      *carryToTempo(t.made.song, *TempoMap::steady(48'000, 97, {}, t.performance.map.origin()), t.made.pool);
  const auto back = *carryToTempo(there, t.made.song.tempo, t.made.pool);
  for (const auto set : {t.kit, t.rest}) {
    const auto& a = *t.made.song.find(set)->clips;
    const auto& b = *back.find(set)->clips;
    ASSERT_EQ(a.size(), b.size());
    for (std::size_t i = 0; i < a.size(); ++i) EXPECT_EQ(a[i].start, b[i].start) << i;
  }
}

TEST(TempoChange, ALockedSetKeepsItsSound) {
  const TwoPlans t;
  const auto locked = *lockSet(t.made.song, t.rest, true);
  const auto next = carryToTempo(locked, *TempoMap::steady(48'000, 112, {}, t.performance.map.origin()), t.made.pool);
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(*next->find(t.rest)->clips, *t.made.song.find(t.rest)->clips);
  EXPECT_EQ(t.worst(*next, t.kit), 0);
}

TEST(TempoChange, GridHeldClipsMoveWithTheirPinsAndWhatTimeHoldsStays) {
  test::TwoSets t;
  auto song = t.song;
  auto& clips = song.sets[1].clips;
  ClipList list = *clips;
  list[0].hold = ClipHold::grid;
  list[0].start = song.tempo.toFrames(song.tempo.barStart(2));
  const auto from = list[0].start - list[0].shift();
  list[0].pins = std::vector<Pin>{{from, list[0].start}, {from + Frames{48'000}, list[0].start + Frames{50'000}}};
  clips = list;
  const auto map = *TempoMap::steady(48'000, song.tempo.bpmAt(Ticks{0}) * 0.8, {}, song.tempo.origin());
  const auto next = setTempoMap(song, map);
  ASSERT_TRUE(next) << next.error().message;
  const auto& moved = next->sets[1].clips->front();
  EXPECT_EQ(moved.start, map.toFrames(map.barStart(2)));
  ASSERT_EQ(moved.pins->size(), 2u);
  EXPECT_EQ(((*moved.pins)[0].song - moved.start).value, 0) << "pins go with their clip";
  EXPECT_EQ(((*moved.pins)[1].song - (*moved.pins)[0].song).value, 50'000);
  EXPECT_EQ(*next->sets[0].clips, *song.sets[0].clips);
  EXPECT_EQ(*next->sets[2].clips, *song.sets[2].clips);
}

TEST(TempoChange, ALockOverAGridHeldClipRefusesItWithASentence) {
  test::TwoSets t;
  auto song = t.song;
  ClipList list = *song.sets[1].clips;
  list[0].hold = ClipHold::grid;
  list[0].start = song.tempo.toFrames(song.tempo.barStart(2));
  song.sets[1].clips = list;
  song = *lockSet(song, song.sets[1].id, true);
  const auto next = setTempoMap(song, *TempoMap::steady(48'000, 90, {}, song.tempo.origin()));
  ASSERT_FALSE(next);
  EXPECT_NE(next.error().message.find("lock"), std::string::npos) << next.error().message;
}

TEST(MicSets, ALockedSetIsNotTakenIntoAnotherOne) {
  test::TwoSets t;
  const auto locked = *lockSet(t.song, t.bass, true);
  const auto bass = t.song.find(t.bass)->tracks.front();
  const auto voice = t.song.find(t.voice)->tracks.front();
  const auto next = makeMicSet(locked, {bass, voice}, "both");
  ASSERT_FALSE(next);
  EXPECT_NE(next.error().message.find("lock"), std::string::npos) << next.error().message;
}

TEST(Recordings, AnotherOneInItsPlaceMakesTheTakeLongerButNeverShorter) {
  test::TwoSets t;
  const auto& take = t.song.takes.front();
  const auto media = take.mics.front().media;
  const auto length = take.length;
  const auto longer = *replaceMedia(t.song, media, {"/b.wav", "x", 2, 44'100, length + Frames{1000}});
  EXPECT_EQ(longer.takes.front().length, length + take.mics.front().offset + Frames{1000});
  EXPECT_EQ(longer.find(media)->channels, 2);
  EXPECT_EQ(longer.find(media)->path, "/b.wav");
  const auto shorter = *replaceMedia(t.song, media, {"/c.wav", "y", 1, 48'000, Frames{10}});
  EXPECT_EQ(shorter.takes.front().length, length);
  EXPECT_FALSE(replaceMedia(t.song, MediaId{999}, {}));
}

}  // namespace
}  // namespace ochron

// A change of tempo carries everything that the grid holds: every set's plan, pins, spans, envelopes; locks are kept.
#include <gtest/gtest.h>

#include <random>

#include <cmath>

#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/media_edits.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"
#include "feel/plan_timing.h"
#include "seams/apply_plan.h"
#include "store/song_json.h"
#include "support/gated.h"
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
  const auto next = test::gated(t.made.song, setTempoMap(t.made.song, map), t.made.pool);
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(next->tempo, map);
  EXPECT_EQ(t.worst(*next, t.kit), 0);
  EXPECT_EQ(t.worst(*next, t.rest), 0) << "the set that is not looked at too";
  EXPECT_NE(*next->find(t.rest)->clips, *t.made.song.find(t.rest)->clips);
}

TEST(TempoChange, ThereAndBackIsTheSameSong) {
  const TwoPlans t;
  const auto there =
      *test::gated(t.made.song, setTempoMap(t.made.song, *TempoMap::steady(48'000, 97, {}, t.performance.map.origin())),
                   t.made.pool);
  const auto back = *test::gated(there, setTempoMap(there, t.made.song.tempo), t.made.pool);
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
  const auto next = test::gated(
      locked, setTempoMap(locked, *TempoMap::steady(48'000, 112, {}, t.performance.map.origin())), t.made.pool);
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(*next->find(t.rest)->clips, *t.made.song.find(t.rest)->clips);
  EXPECT_EQ(t.worst(*next, t.kit), 0);
}

TEST(TempoChange, GridHeldClipsMoveWithTheirPinsAndWhatTimeHoldsStays) {
  test::TwoSets t;
  auto song = t.song;
  auto& clips = song.sets[1].clips;
  ClipList list = *clips;
  list[0].hold = Hold::grid;
  list[0].start = song.tempo.toFrames(song.tempo.barStart(2));
  const auto from = list[0].start - list[0].shift();
  list[0].map = TakeMap({{from, from}, {from + Frames{48'000}, from + Frames{50'000}}});
  clips = list;
  const auto map = *TempoMap::steady(48'000, song.tempo.bpmAt(Ticks{0}) * 0.8, {}, song.tempo.origin());
  const auto next = setTempoMap(song, map);
  ASSERT_TRUE(next) << next.error().message;
  const auto& moved = next->sets[1].clips->front();
  EXPECT_EQ(moved.start, map.toFrames(map.barStart(2)));
  EXPECT_EQ(moved.toSong(from), moved.start) << "pins go with their clip";
  EXPECT_EQ((moved.toSong(from + Frames{48'000}) - moved.start).value, 50'000);
  EXPECT_EQ(*next->sets[0].clips, *song.sets[0].clips);
  EXPECT_EQ(*next->sets[2].clips, *song.sets[2].clips);
}

/// A song in which everything that can be held either way is held so.
Song heldBy(Hold hold) {
  test::TwoSets t;
  auto song = t.song;
  const auto bar = [&](int n) { return song.tempo.toFrames(song.tempo.barStart(n)); };
  song = *addMarker(song, song.tempo.barStart(2), song.tempo.barStart(3) - song.tempo.barStart(2), "section");
  song.markers[0].hold = hold;
  song = *addSpan(song, {song.tracks[3].id}, {bar(1), bar(2)}, "quiet");
  song.spans[0].hold = hold;
  song = *setEnvelope(song, {EnvelopeKind::trackGain, song.tracks[4].id, {}}, {{bar(1), -3, 0}, {bar(3), -6, 0}});
  song.tracks[4].envelopeHold = hold;
  song = *setEnvelope(song, {EnvelopeKind::songGain, {}, {}}, {{bar(0), 0, 0}, {bar(4), -2, 0}});
  song.envelopeHold = hold;
  ClipList clips = *song.sets[1].clips;
  clips[0].start = bar(1);
  clips[0].hold = hold;
  song.sets[1].clips = clips;
  return song;
}

TEST(Hold, OnTheGridAllKindsOfThingsKeepTheirBarsAndOnTheClockTheirPlace) {
  for (const auto hold : {Hold::clock, Hold::grid}) {
    const auto song = heldBy(hold);
    const auto map = *TempoMap::steady(48'000, 87, {}, song.tempo.origin() + Frames{1000});
    const auto next = *setTempoMap(song, map);
    EXPECT_TRUE(brokenRules(next).empty());
    const auto expected = [&](Frames at) { return hold == Hold::clock ? at : map.toFrames(song.tempo.toTicks(at)); };
    const auto place = [](const Song& s, Ticks at) { return s.tempo.toFrames(at); };
    EXPECT_LE(std::abs((place(next, next.markers[0].at) - expected(place(song, song.markers[0].at))).value), 1);
    EXPECT_LE(std::abs((place(next, next.markers[0].end()) - expected(place(song, song.markers[0].end()))).value), 1);
    EXPECT_EQ(next.spans[0].range.start, expected(song.spans[0].range.start));
    EXPECT_EQ(next.spans[0].range.end, expected(song.spans[0].range.end));
    for (std::size_t i = 0; i < 2; ++i) {
      EXPECT_EQ((*next.tracks[4].gainEnvelope)[i].at, expected((*song.tracks[4].gainEnvelope)[i].at));
      EXPECT_EQ((*next.gainEnvelope)[i].at, expected((*song.gainEnvelope)[i].at));
    }
    EXPECT_EQ(next.sets[1].clips->front().start, expected(song.sets[1].clips->front().start));
  }
}

TEST(Hold, IsSavedAndReadBack) {
  for (const auto hold : {Hold::clock, Hold::grid}) {
    const auto song = heldBy(hold);
    const auto back = songFromJson(songToJson(song), "song.json");
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_EQ(*back, song);
  }
}

TEST(Hold, RandomTempoChangesAndBackGiveTheSongFromBefore) {
  std::mt19937_64 dice(11);
  for (int round = 0; round < 60; ++round) {
    const auto song = heldBy(round % 2 == 0 ? Hold::grid : Hold::clock);
    Song now = song;
    for (int i = 0; i < 4; ++i) {
      const double bpm = 40 + static_cast<double>(dice() % 180);
      const auto next =
          setTempoMap(now, *TempoMap::steady(48'000, bpm, {}, Frames{static_cast<std::int64_t>(dice() % 90'000)}));
      ASSERT_TRUE(next) << next.error().message;
      ASSERT_TRUE(brokenRules(*next).empty()) << brokenRules(*next).front();
      now = *next;
    }
    const auto back = *setTempoMap(now, song.tempo);
    const auto near = [](Frames a, Frames b) { return std::abs((a - b).value) <= 4; };
    EXPECT_TRUE(near(back.spans[0].range.start, song.spans[0].range.start));
    EXPECT_TRUE(near(back.sets[1].clips->front().start, song.sets[1].clips->front().start));
    EXPECT_TRUE(near((*back.gainEnvelope)[1].at, (*song.gainEnvelope)[1].at));
    EXPECT_TRUE(near(back.tempo.toFrames(back.markers[0].at), song.tempo.toFrames(song.markers[0].at)));
  }
}

TEST(Hold, ALockKeepsASpanThatTheGridHoldsFromMoving) {
  auto song = heldBy(Hold::grid);
  const auto set = song.setOf(song.spans[0].tracks.front())->id;
  ClipList clips = *song.sets[1].clips;
  clips[0].hold = Hold::clock;
  song.sets[1].clips = clips;
  song = *lockRange(song, set, song.spans[0].range);
  const auto next = test::gated(song, setTempoMap(song, *TempoMap::steady(48'000, 90)));
  ASSERT_FALSE(next);
  EXPECT_NE(next.error().message.find("lock"), std::string::npos) << next.error().message;
}

TEST(TempoChange, ALockOverAGridHeldClipRefusesItWithASentence) {
  test::TwoSets t;
  auto song = t.song;
  ClipList list = *song.sets[1].clips;
  list[0].hold = Hold::grid;
  list[0].start = song.tempo.toFrames(song.tempo.barStart(2));
  song.sets[1].clips = list;
  song = *lockSet(song, song.sets[1].id, true);
  const auto next = test::gated(song, setTempoMap(song, *TempoMap::steady(48'000, 90, {}, song.tempo.origin())));
  ASSERT_FALSE(next);
  EXPECT_NE(next.error().message.find("lock"), std::string::npos) << next.error().message;
}

TEST(MicSets, ALockedSetIsNotTakenIntoAnotherOne) {
  test::TwoSets t;
  const auto locked = *lockSet(t.song, t.bass, true);
  const auto bass = t.song.find(t.bass)->tracks.front();
  const auto voice = t.song.find(t.voice)->tracks.front();
  const auto next = test::gated(locked, makeMicSet(locked, {bass, voice}, "both"));
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

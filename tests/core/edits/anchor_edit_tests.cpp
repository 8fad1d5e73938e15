// Tempo maps made of anchors, recordings that follow a steadier map, clips fitted to the song.

#include "edits/anchor_edits.h"
#include "edits/tempo_edits.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "edits/follow_edits.h"
#include "edits/locks.h"
#include "edits/take_edits.h"
#include "seams/apply_plan.h"
#include "store/song_json.h"
#include "support/gated.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

Ticks bar(const Song& song, int n) { return song.tempo.barStart(n); }

/// A song with one silent take of a minute at 120 BPM.
test::MadeSong plain() {
  return test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(48'000 * 60, 0.0F)}, {});
}

TEST(Anchors, ABarLineComesExactlyToItsAnchorAndBar1Stays) {
  const auto made = plain();
  const auto next = setAnchor(made.song, bar(made.song, 4), Frames{400'123});
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(next->tempo.toFrames(bar(*next, 4)), Frames{400'123});
  EXPECT_EQ(next->tempo.origin(), made.song.tempo.origin());
  EXPECT_EQ(next->tempo.toFrames(bar(*next, 2)), Frames{200'062}) << "bars between anchors are even";
  EXPECT_EQ(next->anchors->size(), 2U);
}

TEST(Anchors, ALaterAnchorNeverDisturbsThoseBeforeIt) {
  const auto made = plain();
  auto song = *setAnchor(made.song, bar(made.song, 4), Frames{400'000});
  song = *setAnchor(song, bar(song, 8), Frames{770'000});
  song = *setAnchor(song, bar(song, 6) + Ticks{kTicksPerQuarter}, Frames{610'000});
  EXPECT_EQ(song.tempo.toFrames(bar(song, 4)), Frames{400'000});
  EXPECT_EQ(song.tempo.toFrames(bar(song, 6) + Ticks{kTicksPerQuarter}), Frames{610'000});
  EXPECT_EQ(song.tempo.toFrames(bar(song, 8)), Frames{770'000});
}

TEST(Anchors, OneAloneMovesTheMapWithoutChangingItsTempo) {
  const auto made = plain();
  const auto song = *setAnchor(made.song, Ticks{}, Frames{12'345});
  EXPECT_EQ(song.tempo.origin(), Frames{12'345});
  EXPECT_EQ(song.tempo.tempos(), made.song.tempo.tempos());
}

TEST(Anchors, WhatWouldCrossItsNeighboursOrRunTooFastIsRefused) {
  const auto made = plain();
  const auto song = *setAnchor(made.song, bar(made.song, 4), Frames{400'000});
  EXPECT_FALSE(setAnchor(song, bar(song, 2), Frames{400'001}));
  EXPECT_FALSE(setAnchor(song, bar(song, 2), Frames{-5}));
  const auto fast = setAnchor(song, bar(song, 3), Frames{399'000});
  ASSERT_FALSE(fast);
  EXPECT_NE(fast.error().message.find("bar 4"), std::string::npos) << fast.error().message;
}

TEST(Anchors, TheFewestTempoChangesKeepEveryAnchorWithinTheLimit) {
  const auto made = plain();
  std::mt19937 dice(5);
  std::normal_distribution<double> off(0, 0.002 * 48'000);
  TempoAnchors anchors;
  for (int b = 0; b < 40; ++b)
    anchors.push_back({bar(made.song, b), Frames{b * 96'000 + std::llround(off(dice) + 600 * std::sin(b / 6.0))}});
  auto song = *setAnchors(made.song, anchors);
  EXPECT_EQ(song.tempo.tempos().size(), 39U);
  EXPECT_LT(anchorsOffMs(song), 0.03);
  std::size_t before = 39;
  for (const double within : {2.0, 5.0, 10.0}) {
    auto s = song.anchorSettings;
    s.withinMs = within;
    const auto fewer = *setAnchorSettings(song, s);
    EXPECT_LE(anchorsOffMs(fewer), within + 0.03);
    EXPECT_LT(fewer.tempo.tempos().size(), before) << within;
    before = fewer.tempo.tempos().size();
  }
}

TEST(Anchors, RampsGoThroughEveryAnchorWithoutAJumpInTempo) {
  const auto made = plain();
  TempoAnchors anchors;
  for (int b = 0; b < 20; ++b) anchors.push_back({bar(made.song, b), Frames{b * 96'000 + (b % 3) * 900}});
  auto song = *setAnchors(made.song, anchors);
  auto s = song.anchorSettings;
  s.ramps = true;
  song = *setAnchorSettings(song, s);
  EXPECT_LT(anchorsOffMs(song), 0.05);
  for (int b = 1; b < 19; ++b)
    EXPECT_NEAR(song.tempo.bpmAt(bar(song, b) - Ticks{1}), song.tempo.bpmAt(bar(song, b)), 0.01) << b;
}

TEST(Anchors, SmoothingEvensTheTempoOut) {
  const auto made = plain();
  TempoAnchors anchors;
  for (int b = 0; b < 20; ++b) anchors.push_back({bar(made.song, b), Frames{b * 96'000 + (b % 2) * 1500}});
  auto song = *setAnchors(made.song, anchors);
  const auto spread = [](const Song& x) {
    double low = 1e9;
    double high = 0;
    for (const auto& t : x.tempo.tempos()) low = std::min(low, t.bpm), high = std::max(high, t.bpm);
    return high - low;
  };
  const double rough = spread(song);
  for (const double amount : {50.0, 100.0}) {
    auto s = song.anchorSettings;
    s.smooth = amount;
    EXPECT_LT(spread(*setAnchorSettings(song, s)), rough * (1 - 0.8 * amount / 100)) << amount;
  }
}

TEST(Anchors, AnySequenceOfEditsKeepsTheMapInvertibleAndClipsOnTheClockWhereTheyAre) {
  const auto made = plain();
  std::mt19937 dice(17);
  auto song = made.song;
  int done = 0;
  for (int round = 0; round < 400; ++round) {
    const int b = static_cast<int>(dice() % 24);
    const auto near = song.tempo.toFrames(bar(song, b)).value + static_cast<std::int64_t>(dice() % 20'000) - 10'000;
    Result<Song> next = song;
    switch (dice() % 6) {
      case 0: next = removeAnchors(song, {bar(song, b)}); break;
      case 1: {
        auto s = song.anchorSettings;
        s.withinMs = static_cast<double>(dice() % 10);
        s.smooth = static_cast<double>(dice() % 100);
        s.ramps = dice() % 2 == 0;
        next = setAnchorSettings(song, s);
        break;
      }
      case 2: next = shiftBars(song, bar(song, b), Frames{near}); break;
      default: next = setAnchor(song, bar(song, b), Frames{near}); break;
    }
    if (!next) continue;
    ++done;
    song = *next;
    ASSERT_TRUE(brokenRules(song).empty()) << brokenRules(song).front();
    ASSERT_EQ(*song.sets[0].clips, *made.song.sets[0].clips);
    for (int k = 0; k < 30; ++k) {
      const Frames f{static_cast<std::int64_t>(dice() % 3'000'000)};
      ASSERT_EQ(song.tempo.toFrames(song.tempo.toTicks(f)), f);
    }
    const auto read = songFromJson(songToJson(song), "song");
    ASSERT_TRUE(read) << read.error().message;
    ASSERT_EQ(*read, song);
  }
  EXPECT_GT(done, 200);
}

TEST(Anchors, AnotherTempoByOtherMeansLeavesNone) {
  const auto made = plain();
  const auto song = *setAnchor(made.song, bar(made.song, 4), Frames{400'000});
  const auto next = test::gated(song, setTempoMap(song, *TempoMap::steady(48'000, 99)), {});
  ASSERT_TRUE(next);
  EXPECT_TRUE(next->anchors->empty());
}

struct Wandering : ::testing::Test {
  Wandering() {
    test::Style style;
    style.bars = 12;
    style.driftMs = 0;
    style.snareLateMs = 0;
    style.scatterMs = 0;
    style.ghostShare = 0;
    performance = test::perform(style);
    made = test::songOf(performance);
    // The drummer's own time is even; the song's map wanders about it, so that its bars must be brought to one tempo.
    TempoAnchors anchors;
    for (int b = 0; b <= 12; ++b)
      anchors.push_back({made.song.tempo.barStart(b),
                         made.song.tempo.toFrames(made.song.tempo.barStart(b)) + Frames{(b % 2) * 2'000}});
    made.song = *setAnchors(made.song, anchors);
  }
  test::Performance performance;
  test::MadeSong made;
};

TEST_F(Wandering, MadeSteadyByNothingIsTheSameSong) { EXPECT_EQ(*makeSteady(made.song, 0), made.song); }

TEST_F(Wandering, MadeSteadyAllTheWayEveryHitKeepsItsPlaceInItsBar) {
  const auto evened = makeSteady(made.song, 100);
  ASSERT_TRUE(evened) << evened.error().message;
  EXPECT_TRUE(brokenRules(*evened).empty()) << brokenRules(*evened).front();
  EXPECT_EQ(evened->tempo.tempos().size(), 1U);
  const auto& was = made.song.sets[0].clips->front();
  const auto& now = evened->sets[0].clips->front();
  for (const auto& h : *made.song.hitsOf(made.take, made.set)) {
    const auto place = made.song.tempo.toTicks(was.toSong(h.at));
    EXPECT_NEAR(static_cast<double>(now.toSong(h.at).value), static_cast<double>(evened->tempo.toFrames(place).value),
                1.5);
  }
}

TEST_F(Wandering, HalfTheWayLiesBetween) {
  const auto half = makeSteady(made.song, 50);
  ASSERT_TRUE(half) << half.error().message;
  const auto at = [](const Song& s, int b) { return static_cast<double>(s.tempo.toFrames(s.tempo.barStart(b)).value); };
  const auto whole = *makeSteady(made.song, 100);
  for (int b = 1; b < 12; ++b) EXPECT_NEAR(at(*half, b), (at(made.song, b) + at(whole, b)) / 2, 2) << b;
}

TEST_F(Wandering, AFittedClipPutsItsBarsOnTheSongs) {
  auto song = *test::gated(made.song, setTempoMap(made.song, *TempoMap::steady(48'000, 130)), {});
  const auto clip = song.sets[0].clips->front().id;
  const double own = performance.map.bpmAt(Ticks{});
  const auto fitted = fitClip(song, clip, {own, performance.map.origin()});
  ASSERT_TRUE(fitted) << fitted.error().message;
  EXPECT_TRUE(brokenRules(*fitted).empty()) << brokenRules(*fitted).front();
  const auto& now = *fitted->find(clip);
  const auto first = fitted->tempo.toTicks(now.toSong(performance.map.origin()));
  EXPECT_EQ(first.value % fitted->tempo.meterOfBar(0).barLength().value, 0) << "on a bar line to the tick";
  for (const auto& h : performance.hits) {
    if (h.drum != DrumClass::kick && h.drum != DrumClass::snare) continue;
    const auto there = fitted->tempo.toFrames(first + h.intended);
    EXPECT_NEAR(static_cast<double>(now.toSong(h.at).value), static_cast<double>(there.value), 48) << h.intended.value;
  }
}

TEST_F(Wandering, FittedBySlicesEveryHitIsWhereStretchingPutsItAndIsTheRecording) {
  for (const double bpm : {95.0, 130.0}) {
    auto song = *test::gated(made.song, setTempoMap(made.song, *TempoMap::steady(48'000, bpm)), {});
    const auto clip = song.sets[0].clips->front().id;
    const SourceTempo own{performance.map.bpmAt(Ticks{}), performance.map.origin()};
    const auto stretched = fitClip(song, clip, own);
    const auto slices = fitClip(song, clip, own, FitManner::slices);
    ASSERT_TRUE(stretched && slices) << slices.error().message;
    EXPECT_TRUE(brokenRules(*slices).empty()) << brokenRules(*slices).front();
    const auto& clips = *slices->sets[0].clips;
    EXPECT_GT(clips.size(), 10U);
    const auto& there = *stretched->find(clip);
    std::size_t found = 0;
    for (const auto& h : activeHits(*song.hitsOf(made.take, made.set), song.sets[0].hits, song.rate))
      for (const auto& c : clips) {
        EXPECT_TRUE(c.map.identity());
        if (!c.played().contains(reachOf(h).first)) continue;
        ++found;
        // Strokes closer than a slice's lead-in go with the one before.
        EXPECT_NEAR(static_cast<double>((c.toSong(reachOf(h).first) - there.toSong(reachOf(h).first)).value), 0, 300);
      }
    EXPECT_GT(found, 20U);
    for (std::size_t i = 1; i < clips.size(); ++i) EXPECT_GE(clips[i].start, clips[i - 1].end());
  }
}

TEST_F(Wandering, FittedAsATapeItsPitchGoesAlong) {
  auto song = *test::gated(made.song, setTempoMap(made.song, *TempoMap::steady(48'000, 130)), {});
  const auto clip = song.sets[0].clips->front().id;
  const auto tape = fitClip(song, clip, {performance.map.bpmAt(Ticks{}), performance.map.origin()}, FitManner::tape);
  ASSERT_TRUE(tape);
  EXPECT_EQ(tape->methodOf(tape->sets[0], *tape->find(clip)), StretchMethod::tape);
}

TEST_F(Wandering, WithoutHitsOrStretchedAlreadyNothingIsSliced) {
  auto song = made.song;
  const auto clip = song.sets[0].clips->front().id;
  const SourceTempo own{performance.map.bpmAt(Ticks{}), performance.map.origin()};
  EXPECT_FALSE(fitClip(*fitClip(song, clip, own), clip, {100, Frames{}}, FitManner::slices));
  song.takes[0].facts.clear();
  EXPECT_FALSE(fitClip(song, clip, own, FitManner::slices));
}

TEST_F(Wandering, WrongTemposAndClipsThatPlayBackwardsAreRefused) {
  const auto clip = made.song.sets[0].clips->front().id;
  EXPECT_FALSE(fitClip(made.song, clip, {5, Frames{}}));
  EXPECT_FALSE(fitClip(made.song, ClipId{99'999}, {120, Frames{}}));
  EXPECT_FALSE(makeSteady(made.song, -1));
  EXPECT_FALSE(makeSteady(Song{}, 100));
}

TEST(FitSets, LoopsOfUnlikeTemposEndOnBarLinesAndTheirTakesKeepTheTempo) {
  // Two loops of 8 beats, at 96 and at 150, in a song of 120.
  Song song;
  song.rate = 48'000;
  song.tempo = *TempoMap::steady(48'000, 120);
  std::vector<FitOne> all;
  for (const double bpm : {96.0, 150.0}) {
    IncomingFile f;
    f.name = "loop " + std::to_string(static_cast<int>(bpm));
    f.path = "/nowhere/" + f.name + ".wav";
    f.fileRate = 48'000;
    f.length = Frames{std::llround(8 * 60 / bpm * 48'000)};
    song = *importTake(song, {f}, {f.name, Frames{}, true, {}});
    all.push_back({song.sets.back().id, {bpm, Frames{}}});
  }
  const auto fitted = fitSets(song, all);
  ASSERT_TRUE(fitted) << fitted.error().message;
  EXPECT_TRUE(brokenRules(*fitted).empty());
  for (std::size_t i = 0; i < 2; ++i) {
    EXPECT_EQ(fitted->sets[i].clips->front().range(), (FrameRange{Frames{}, Frames{2 * 96'000}})) << i;
    ASSERT_TRUE(fitted->takes[i].tempo);
    EXPECT_EQ(fitted->takes[i].tempo->bpm, all[i].source.bpm);
  }
  const auto read = songFromJson(songToJson(*fitted), "song.json");
  ASSERT_TRUE(read) << read.error().message;
  EXPECT_EQ(*read, *fitted);
  const auto locked = *lockSet(song, all[0].set, true);
  const auto rest = fitSets(locked, all);
  ASSERT_TRUE(rest);
  EXPECT_EQ(*rest->sets[0].clips, *locked.sets[0].clips);
  EXPECT_FALSE(fitSets(song, {{all[0].set, {5000, Frames{}}}}));
}

}  // namespace
}  // namespace ochron

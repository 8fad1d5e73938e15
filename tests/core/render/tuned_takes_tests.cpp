// Recordings as pitch plans make them: only what moves is made, once, and everything downstream plays it.

#include "render/tuned_takes.h"

#include <gtest/gtest.h>

#include "edits/pitch_edits.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "support/gated.h"
#include "support/made_voice.h"
#include "support/scratch.h"
#include "support/song_maker.h"
#include "takes/hear_line.h"

namespace ochron {
namespace {

struct TunedTakes : ::testing::Test {
  TunedTakes() {
    MadeVoice voice;
    voice.seconds = 5;
    voice.notes = {{0.5, 0.7, 60.25}, {1.4, 0.7, 64.2}, {2.3, 0.7, 66.7}, {3.2, 0.9, 61.6}};
    made = test::songOf(*TempoMap::steady(48'000, 120), {voice.samples()}, {});
    Progress progress;
    const auto line = hearLine(made.song, *made.song.find(made.set), made.take, made.pool, {}, progress);
    EXPECT_TRUE(line);
    made.song = *setLine(made.song, made.take, made.set, *line);
    media = made.pool.begin()->first;
  }
  Song tunedSong(bool on = true) {
    TuneSettings s;
    s.on = on;
    return *setTuning(made.song, made.set, s);
  }
  MediaPool whole(const Song& song, MadeStore& store) {
    Progress progress;
    auto pool = tunedWhole(song, made.pool, store, progress);
    EXPECT_TRUE(pool);
    return *pool;
  }
  NoteName note(std::size_t i) { return nameOf(made.take, made.song.lineOf(made.take, made.set)->notes.at(i)); }
  test::MadeSong made;
  MediaId media;
};

TEST_F(TunedTakes, WithoutAPlanTheRecordingsThemselvesArePlayed) {
  MadeStore store;
  EXPECT_EQ(whole(made.song, store).at(media), made.pool.at(media));
  EXPECT_EQ(store.timesKept(), 0U);
  EXPECT_FALSE(anyTuned(made.song));
}

TEST_F(TunedTakes, WhatIsNotMadeYetIsHeardAsRecordedAndSaidToBeMissing) {
  MadeStore store;
  const auto now = tunedAtHand(tunedSong(), made.pool, store);
  EXPECT_TRUE(now.missing);
  EXPECT_EQ(now.pool.at(media), made.pool.at(media));
}

TEST_F(TunedTakes, OnlyVoicedStretchesThatMoveAreNewSound) {
  MadeStore store;
  const auto pool = whole(tunedSong(), store);
  const auto raw = made.pool.at(media)->channel(0).floats();
  const auto now = pool.at(media)->channel(0).copy();
  ASSERT_EQ(raw.size(), now.size());
  EXPECT_NE(pool.at(media)->variant(), 0U);
  std::size_t changed = 0;
  for (std::size_t i = 0; i < raw.size(); ++i) {
    if (raw[i] == now[i]) continue;
    ++changed;
    const double t = static_cast<double>(i) / 48'000;
    EXPECT_TRUE((t > 0.4 && t < 1.25) || (t > 1.3 && t < 2.15) || (t > 2.2 && t < 3.05) || (t > 3.1 && t < 4.15)) << t;
  }
  EXPECT_GT(changed, 80'000U);
}

TEST_F(TunedTakes, UnchangedNotesAreNeverMadeAgain) {
  MadeStore store;
  const auto song = tunedSong();
  whole(song, store);
  const auto first = store.timesKept();
  EXPECT_EQ(first, 4U);
  whole(song, store);
  EXPECT_EQ(store.timesKept(), first);
  const auto other = *setNoteWishes(song, made.set, {{note(2), {centsOf(400), false}}});
  whole(other, store);
  EXPECT_EQ(store.timesKept(), first + 1) << "one note was moved";
  whole(song, store);
  EXPECT_EQ(store.timesKept(), first + 1) << "and back: the same sound";
}

TEST_F(TunedTakes, WhatIsAsItWasIsTakenOver) {
  MadeStore store;
  const auto song = tunedSong();
  whole(song, store);
  const auto before = tunedAtHand(song, made.pool, store);
  EXPECT_EQ(tunedAtHand(song, made.pool, store, &before).pool.at(media), before.pool.at(media));
  const auto other = *setNoteWishes(song, made.set, {{note(0), {{}, true}}});
  EXPECT_NE(tunedAtHand(other, made.pool, store, &before).pool.at(media), before.pool.at(media));
}

TEST_F(TunedTakes, StretchedSoundOfATunedTakeIsOtherSoundThanThatOfTheRecording) {
  MadeStore store;
  const auto song = tunedSong();
  const auto& set = *song.find(made.set);
  const auto& clip = set.clips->front();
  EXPECT_NE(voicesOf(song, set, clip, made.pool).digest, voicesOf(song, set, clip, whole(song, store)).digest);
}

TEST_F(TunedTakes, AFolderKeepsThemForAnotherRun) {
  test::Scratch scratch;
  auto song = tunedSong();
  for (auto& m : song.media) m.fingerprint = "xxh3-00112233445566778899aabbccddeeff-240000";
  std::vector<float> first;
  {
    MadeStore store(scratch.path());
    const auto pool = whole(song, store);
    const auto sound = pool.at(media)->channel(0).copy();
    first.assign(sound.begin(), sound.end());
  }
  MadeStore again(scratch.path());
  const auto pool = whole(song, again);
  const auto sound = pool.at(media)->channel(0).copy();
  EXPECT_TRUE(std::equal(first.begin(), first.end(), sound.begin(), sound.end()));
  EXPECT_EQ(again.timesKept(), 0U);
}

TEST_F(TunedTakes, CancelledTheyFailAndTheRestIsMadeLater) {
  MadeStore store;
  Progress progress;
  progress.cancel();
  EXPECT_FALSE(makeTuned(tunedSong(), made.pool, store, {}, progress));
  EXPECT_EQ(store.timesKept(), 0U);
}

TEST_F(TunedTakes, LockedSetsRefuseAnotherTuning) {
  Song song = made.song;
  song.sets[0].locked = true;
  TuneSettings other;
  other.keepVibrato = 50;
  EXPECT_FALSE(test::gated(song, setTuning(song, made.set, other)));
  EXPECT_FALSE(test::gated(song, setNoteWishes(song, made.set, {{note(0), {{}, true}}})));
  TuneSettings odd;
  odd.keepVibrato = 900;
  EXPECT_FALSE(setTuning(made.song, made.set, odd));
}

}  // namespace
}  // namespace ochron

// Layers: sounds on strokes, to the sample, through every change of the song.

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <numbers>
#include <random>

#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/pieces.h"
#include "edits/plan_edits.h"
#include "edits/rate_edits.h"
#include "edits/take_edits.h"
#include "edits/track_edits.h"
#include "gate/gate.h"
#include "kit/own_sounds.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "render/tuned_takes.h"
#include "store/song_json.h"
#include "support/gated.h"
#include "support/layered.h"

namespace ochron {
namespace {

using test::layered;
using test::MadeSong;
using test::Performance;

/// A drum of its own: silent at first, then a tone and noise that begin at once.
std::vector<float> drumSound(std::size_t lead, double hertz = 210) {
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> noise(-1, 1);
  std::vector<float> out(lead + 9'000, 0.0F);
  for (std::size_t i = 0; i < 9'000; ++i) {
    const double t = static_cast<double>(i) / 48'000;
    out[lead + i] = static_cast<float>(std::exp(-t / 0.05) * (0.5 * std::cos(2 * std::numbers::pi * hertz * t))) +
                    static_cast<float>(std::exp(-t / 0.02)) * 0.2F * noise(dice);
  }
  return out;
}

const Performance& performance() {
  static const auto p = [] {
    test::Style style;
    style.bars = 16;
    style.seed = 5;
    return test::perform(style);
  }();
  return p;
}
MadeSong kit() { return test::songOf(performance()); }

std::vector<float> heardOn(const RenderPlan& plan, TrackId track, FrameRange range) {
  std::vector<float> out(static_cast<std::size_t>(range.length().value), 0.0F);
  for (const auto& t : plan.tracks)
    if (t.track == track) addTrack(t, 0, range.start, out);
  return out;
}

FrameRange whole(const Song& song) { return {Frames{}, song.end()}; }

MediaPool treated(const MadeSong& made) {
  MadeStore store;
  auto pool = tunedWhole(made.song, made.pool, store, test::unwatched());
  EXPECT_TRUE(pool);
  return pool ? *pool : made.pool;
}

double energyOf(std::span<const float> x) {
  double sum = 0;
  for (const float v : x) sum += static_cast<double>(v) * static_cast<double>(v);
  return sum;
}

/// How far a layer's strokes lie from those that were played, in frames, sorted.
std::vector<std::int64_t> errorsOf(const Song& song, DrumClass drum) {
  std::vector<std::int64_t> errors;
  for (const auto& s : strokesOf(song, song.layers.back())) {
    std::int64_t least = 1'000'000;
    for (const auto& t : performance().of({drum})) least = std::min(least, std::abs((s.at - t.at).value));
    errors.push_back(least);
  }
  std::sort(errors.begin(), errors.end());
  return errors;
}

TEST(DrumLayers, EveryStrokesSoundBeginsOnItsAttackToTheSample) {
  const auto kick = errorsOf(layered(kit(), DrumClass::kick, drumSound(700)).song, DrumClass::kick);
  ASSERT_EQ(kick.size(), performance().of({DrumClass::kick}).size());
  EXPECT_LE(kick[kick.size() / 2], 1);
  EXPECT_LE(kick[kick.size() * 95 / 100], 2);
  // A snare of noise is another at every stroke: each by its own rise, to a tenth of a millisecond.
  const auto snare = errorsOf(layered(kit(), DrumClass::snare, drumSound(700)).song, DrumClass::snare);
  EXPECT_LE(snare[snare.size() * 95 / 100], 6);
}

TEST(DrumLayers, AHitThatWasFoundOffIsPutRightByTheMic) {
  auto made = kit();
  // As a detection that is up to 1.5 ms off would have it.
  for (auto& take : made.song.takes)
    for (auto& facts : take.facts) {
      auto hits = *facts.hits;
      for (std::size_t i = 0; i < hits.size(); ++i) hits[i].at += Frames{static_cast<std::int64_t>(i * 37 % 145) - 72};
      facts.hits = std::move(hits);
    }
  made = layered(made, DrumClass::kick, drumSound(100));
  const auto errors = errorsOf(made.song, DrumClass::kick);
  EXPECT_LE(errors[errors.size() / 2], 2);
  EXPECT_LE(errors[errors.size() * 95 / 100], 3) << ::testing::PrintToString(errors);
}

TEST(DrumLayers, AHitPlacedByHandStaysWhereItIs) {
  auto made = kit();
  const auto hit = made.song.hitsOf(made.take, made.set)->at(20);
  const auto moved = moveHit(made.song, made.take, made.set, hit.id, hit.at + Frames{60});
  ASSERT_TRUE(moved);
  made.song = *moved;
  made = layered(made, {}, drumSound(10));
  const auto strokes = strokesOf(made.song, made.song.layers.back());
  const auto found = std::find_if(strokes.begin(), strokes.end(), [&](auto& s) { return s.hit == hit.id; });
  if (found != strokes.end()) EXPECT_EQ(found->inTake, hit.at + Frames{60});
}

TEST(DrumLayers, ASoundThatWouldCancelTheDrumIsTurned) {
  // One stroke of the mic itself as the sound.
  const auto hit = performance().of({DrumClass::snare}).at(4).at.value;
  const auto& mic = performance().mics[1];
  std::vector<float> own(mic.begin() + hit - 48, mic.begin() + hit + 6'000);
  const auto plain = layered(kit(), DrumClass::snare, own);
  EXPECT_FALSE(plain.song.layers.back().sounds->sounds.front().turned);
  EXPECT_GT(plain.song.layers.back().sounds->sounds.front().likeness, 0.8);
  for (auto& v : own) v = -v;
  const auto turned = layered(kit(), DrumClass::snare, own);
  EXPECT_TRUE(turned.song.layers.back().sounds->sounds.front().turned);
}

TEST(DrumLayers, TwoOfOneSoundNullToTheBitWhenOneIsTurned) {
  auto made = layered(kit(), DrumClass::kick, drumSound(50));
  auto song = duplicateLayer(made.song, made.song.layers.back().id);
  ASSERT_TRUE(song);
  auto second = song->layers.back();
  second.turned = !strokesOf(*song, song->layers.front()).front().turned;
  song = setLayer(*song, second);
  ASSERT_TRUE(song);
  const auto plan = compilePlan(*song, made.pool);
  const auto a = heardOn(plan, song->layers[0].track, whole(*song));
  const auto b = heardOn(plan, song->layers[1].track, whole(*song));
  EXPECT_GT(energyOf(a), 1);
  for (std::size_t i = 0; i < a.size(); ++i) ASSERT_EQ(a[i] + b[i], 0) << i;
}

TEST(DrumLayers, FollowATimingPlanWithoutBeingListenedToAgain) {
  auto made = layered(kit(), DrumClass::snare, drumSound(0));
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.keepPocket = plan.settings.keepDrift = plan.settings.keepScatter = 0;
  const auto planned = test::gated(made.song, setTimingPlan(made.song, made.set, plan), made.pool);
  ASSERT_TRUE(planned) << planned.error().message;
  EXPECT_FALSE(needsLiningUp(*planned, planned->layers.back()));
  std::vector<double> off;
  for (const auto& s : strokesOf(*planned, planned->layers.back())) {
    const auto line = nearestLine(planned->tempo, {}, planned->tempo.toTicks(s.at));
    off.push_back(std::abs(static_cast<double>((s.at - line.frame).value)));
  }
  std::sort(off.begin(), off.end());
  EXPECT_LE(off[off.size() / 2], 3);
}

TEST(DrumLayers, WhatWasDecidedForAStrokeIsKeptThroughEverything) {
  auto made = layered(kit(), DrumClass::snare, drumSound(0));
  const auto id = made.song.layers.back().id;
  const auto hit = strokesOf(made.song, made.song.layers.back()).at(7).hit;
  auto song = setStrokeWish(made.song, id, {hit}, {{}, -6, {}});
  ASSERT_TRUE(song);
  TimingPlan plan;
  plan.settings.on = true;
  song = test::gated(*song, setTimingPlan(*song, made.set, plan), made.pool);
  ASSERT_TRUE(song);
  auto layer = song->layers.back();
  layer.settings.follow = 30;
  song = setLayer(*song, layer);
  ASSERT_TRUE(song);
  const auto strokes = strokesOf(*song, song->layers.back());
  const auto with = std::find_if(strokes.begin(), strokes.end(), [&](auto& s) { return s.hit == hit; });
  ASSERT_NE(with, strokes.end());
  EXPECT_TRUE(with->byHand);
  song = setStrokeWish(*song, id, {hit}, {});
  ASSERT_TRUE(song);
  const auto now = strokesOf(*song, song->layers.back());
  EXPECT_NEAR(now[static_cast<std::size_t>(with - strokes.begin())].gainDb - with->gainDb, 6, 1e-9);
}

TEST(DrumLayers, TheThresholdLeavesGhostNotesToTheDrummer) {
  LayerSettings settings;
  settings.threshold = 0.4;
  const auto made = layered(kit(), DrumClass::snare, drumSound(0), settings);
  const auto strokes = strokesOf(made.song, made.song.layers.back());
  int soft = 0;
  for (const auto& s : strokes) {
    EXPECT_EQ(s.heard, s.strength >= 0.4);
    soft += s.heard ? 0 : 1;
  }
  EXPECT_GT(soft, 3);
}

TEST(DrumLayers, TheLevelFollowsTheStrengthAsFarAsAsked) {
  LayerSettings settings;
  settings.follow = 0;
  const auto flat = layered(kit(), DrumClass::snare, drumSound(0), settings);
  for (const auto& s : strokesOf(flat.song, flat.song.layers.back())) EXPECT_NEAR(s.gainDb, 0, 1e-9);
  auto layer = flat.song.layers.back();
  layer.settings.follow = 100;
  layer.curve = {{0, -40}, {0.5, -10}, {1, 0}};
  const auto curved = setLayer(flat.song, layer);
  ASSERT_TRUE(curved);
  for (const auto& s : strokesOf(*curved, curved->layers.back()))
    EXPECT_NEAR(s.gainDb, s.strength < 0.5 ? -40 + 60 * s.strength : -20 + 20 * s.strength, 1e-6);
}

TEST(DrumLayers, AlternatesNeverRepeatTwiceInARow) {
  auto made = layered(kit(), DrumClass::snare, drumSound(0));
  auto layer = made.song.layers.back();
  auto set = *layer.sounds;
  for (int i = 0; i < 3; ++i) set.sounds.push_back(set.sounds.front());
  layer.sounds = set;
  const auto song = setLayer(made.song, layer);
  ASSERT_TRUE(song);
  const auto strokes = strokesOf(*song, song->layers.back());
  std::set<std::size_t> used;
  for (std::size_t i = 1; i < strokes.size(); ++i) {
    EXPECT_NE(strokes[i].sound, strokes[i - 1].sound);
    used.insert(strokes[i].sound);
  }
  EXPECT_EQ(used.size(), 4U);
  EXPECT_EQ(strokesOf(*song, song->layers.back()), strokes) << "the same at every run";
}

TEST(DrumLayers, ReplacingLowersTheDrumInItsMicAloneAndNothingBeforeIt) {
  LayerSettings settings;
  settings.blend = 100;
  const auto made = layered(kit(), DrumClass::snare, drumSound(0), settings);
  const auto pool = treated(made);
  const auto& mics = made.song.takes.front().mics;
  for (const std::size_t other : {0U, 2U, 3U})
    EXPECT_EQ(pool.at(mics[other].media), made.pool.at(mics[other].media)) << "mic " << other;
  const auto before = made.pool.at(mics[1].media)->channel(0).copy();
  const auto after = pool.at(mics[1].media)->channel(0).copy();
  const auto strokes = strokesOf(made.song, made.song.layers.back());
  for (std::int64_t i = 0; i < strokes.front().inTake.value; ++i)
    ASSERT_EQ(before[static_cast<std::size_t>(i)], after[static_cast<std::size_t>(i)]) << i;
  std::vector<double> down;
  for (const auto& s : strokes) {
    if (s.strength < 0.4) continue;
    const auto at = static_cast<std::size_t>(s.inTake.value);
    down.push_back(10 * std::log10(energyOf(std::span(after).subspan(at + 30, 4000)) /
                                   energyOf(std::span(before).subspan(at + 30, 4000))));
  }
  std::sort(down.begin(), down.end());
  EXPECT_LT(down[down.size() / 2], -12);
  EXPECT_LT(down[down.size() * 9 / 10], -10);
}

TEST(DrumLayers, ABlendOfNothingLeavesEveryRecordingAlone) {
  const auto made = layered(kit(), DrumClass::snare, drumSound(0));
  MadeStore store;
  const auto pool = tunedAtHand(made.song, made.pool, store);
  EXPECT_FALSE(pool.missing);
  EXPECT_EQ(pool.pool, made.pool);
}

TEST(DrumLayers, ACymbalThatRingsThroughTheMicRingsOn) {
  auto made = kit();
  // A ring far above the snare's tone, in the snare's mic alone.
  auto mic = performance().mics[1];
  std::vector<float> ring(mic.size());
  for (std::size_t i = 0; i < ring.size(); ++i)
    ring[i] = 0.05F * static_cast<float>(std::sin(2 * std::numbers::pi * 11'000 * static_cast<double>(i) / 48'000));
  for (std::size_t i = 0; i < mic.size(); ++i) mic[i] += ring[i];
  made.pool[made.song.takes.front().mics[1].media] = DecodedMedia::fromSamples(48'000, {mic});
  LayerSettings settings;
  settings.blend = 100;
  made = layered(made, DrumClass::snare, drumSound(0), settings);
  const auto after = treated(made).at(made.song.takes.front().mics[1].media)->channel(0).copy();
  // Correlation with the ring says how loud it still is.
  std::vector<double> levels;
  for (const auto& s : strokesOf(made.song, made.song.layers.back())) {
    double still = 0;
    double was = 0;
    for (std::size_t i = 200; i < 4000; ++i) {
      const auto at = static_cast<std::size_t>(s.inTake.value) + i;
      still += static_cast<double>(after[at]) * static_cast<double>(ring[at]);
      was += static_cast<double>(ring[at]) * static_cast<double>(ring[at]);
    }
    levels.push_back(20 * std::log10(std::max(still / was, 1e-6)));
  }
  std::sort(levels.begin(), levels.end());
  EXPECT_GT(levels[levels.size() / 4], -0.5);
  EXPECT_LT(levels[levels.size() * 3 / 4], 0.5);
}

TEST(DrumLayers, OwnStrokesStandAloneAndReplaceTheDrumAtItsLevel) {
  auto made = kit();
  auto song = addLayer(made.song, made.set, DrumClass::snare, "own");
  ASSERT_TRUE(song);
  auto lined = linedUp(*song, song->layers.back(), made.pool, test::unwatched());
  ASSERT_TRUE(lined);
  const auto own = ownSounds(*song, *lined, made.pool);
  ASSERT_TRUE(own) << own.error().message;
  EXPECT_GE(own->sounds.size(), 4U);
  song = setLayerSounds(*song, lined->id, *own);
  ASSERT_TRUE(song);
  song = layersLinedUp(*song, made.pool, test::unwatched());
  ASSERT_TRUE(song);
  const auto& layer = song->layers.back();
  const auto media = made.song.takes.front().mics[1].media;
  for (const auto& s : layer.sounds->sounds) EXPECT_EQ(s.media, media) << "of the drum's own mic";
  // What comes out at a stroke's level is its strength's, from the level of a full one on.
  for (const auto& s : strokesOf(*song, layer))
    EXPECT_NEAR(layer.sounds->sounds[s.sound].peakDb + s.gainDb, layer.heard->fullDb + 20 * std::log10(s.strength), 1);
}

TEST(DrumLayers, AreSavedAndOpenedEqual) {
  auto made = layered(kit(), DrumClass::snare, drumSound(30));
  auto layer = made.song.layers.back();
  layer.curve = {{0.2, -20}, {1, 0}};
  layer.turned = true;
  layer.lineUp = LineUp::whole;
  layer.wishes[strokesOf(made.song, layer).front().hit] = {0, 1.5, true};
  const auto song = setLayer(made.song, layer);
  ASSERT_TRUE(song);
  const auto text = songToJson(*song);
  const auto again = songFromJson(text, "song.json");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(*again, *song);
  EXPECT_TRUE(again->foreign->keys.empty());
  const auto without = songToJson(test::songOf(performance()).song);
  EXPECT_NE(without.find("\"orthochron song\": 4"), std::string::npos) << "what has no layers stays readable";
}

TEST(DrumLayers, GoWithTheirMicSetAndWithTheirTrack) {
  auto made = layered(kit(), DrumClass::snare, drumSound(30));
  const auto tracks = made.song.find(made.set)->tracks;
  const auto bare = removeTracks(made.song, tracks);
  ASSERT_TRUE(bare);
  EXPECT_TRUE(bare->layers.empty());
  EXPECT_TRUE(bare->tracks.empty());
  EXPECT_TRUE(bare->media.empty());
  const auto plain = removeLayer(made.song, made.song.layers.back().id);
  ASSERT_TRUE(plain);
  EXPECT_TRUE(brokenRules(*plain).empty());
  EXPECT_EQ(plain->tracks.size(), tracks.size());
  EXPECT_EQ(plain->media.size(), made.song.media.size() - 1);
}

TEST(DrumLayers, ADrumInALockedRangeIsNotLowered) {
  auto made = layered(kit(), DrumClass::snare, drumSound(30));
  const auto locked = lockRange(made.song, made.set, {Frames{100'000}, Frames{300'000}});
  ASSERT_TRUE(locked);
  auto layer = locked->layers.back();
  layer.settings.blend = 50;
  EXPECT_FALSE(test::gated(*locked, setLayer(*locked, layer), made.pool)) << "it would change what is locked";
  layer.settings.blend = 0;
  layer.settings.gainDb = -3;
  EXPECT_TRUE(test::gated(*locked, setLayer(*locked, layer), made.pool)) << "the layer's own track is not locked";
}

TEST(DrumLayers, ComeAlongToAnotherRate) {
  const auto made = layered(kit(), DrumClass::snare, drumSound(480));
  const auto carried = songAtRate(made.song, 96'000);
  ASSERT_TRUE(carried) << carried.error().message;
  const auto was = strokesOf(made.song, made.song.layers.back());
  const auto now = strokesOf(*carried, carried->layers.back());
  ASSERT_EQ(was.size(), now.size());
  for (std::size_t i = 0; i < was.size(); ++i) EXPECT_NEAR(now[i].at.value, 2 * was[i].at.value, 2);
  EXPECT_EQ(carried->layers.back().sounds->sounds.front().attack.value,
            2 * made.song.layers.back().sounds->sounds.front().attack.value);
}

TEST(DrumLayers, TheOriginalIsHeardWithoutThem) {
  const auto made = layered(kit(), DrumClass::snare, drumSound(0));
  const auto original = withoutPlans(made.song);
  const auto plan = compilePlan(original, made.pool);
  EXPECT_EQ(energyOf(heardOn(plan, made.song.layers.back().track, whole(made.song))), 0);
}

TEST(DrumLayers, SoundsThatAreNotAtHandAreSilentAndNothingElseIs) {
  auto made = layered(kit(), DrumClass::snare, drumSound(0));
  made.pool.erase(made.song.layers.back().sounds->sounds.front().media);
  const auto plan = compilePlan(made.song, made.pool);
  EXPECT_EQ(energyOf(heardOn(plan, made.song.layers.back().track, whole(made.song))), 0);
  EXPECT_GT(energyOf(heardOn(plan, made.song.tracks.front().id, whole(made.song))), 1);
}

TEST(DrumLayers, AreMadeAnewOnlyWhereASettingChangesTheirSound) {
  LayerSettings settings;
  settings.cents = -300;
  settings.lengthMs = 40;
  settings.highCut = 4000;
  const auto made = layered(kit(), DrumClass::kick, drumSound(0), settings);
  const auto before = compilePlan(made.song, made.pool);
  const auto turned = [&](const std::function<void(LayerSettings&)>& turn) {
    auto layer = made.song.layers.back();
    turn(layer.settings);
    const auto song = *setLayer(made.song, layer);
    auto plan = compilePlan(song, made.pool, &before);
    const auto fresh = compilePlan(song, made.pool);
    EXPECT_EQ(heardOn(plan, layer.track, whole(song)), heardOn(fresh, layer.track, whole(song)));
    return plan.tracks.back().played == before.tracks.back().played;
  };
  EXPECT_TRUE(turned([](auto& s) { s.gainDb = -7; }));
  EXPECT_TRUE(turned([](auto& s) { s.follow = 20; }));
  EXPECT_TRUE(turned([](auto& s) { s.offsetMs = 3; }));
  EXPECT_TRUE(turned([](auto& s) { s.pan = 30; }));
  EXPECT_FALSE(turned([](auto& s) { s.cents = 100; }));
  EXPECT_FALSE(turned([](auto& s) { s.lengthMs = 20; }));
  EXPECT_FALSE(turned([](auto& s) { s.fadeMs = 11; }));
  EXPECT_FALSE(turned([](auto& s) { s.lowCut = 90; }));
  EXPECT_FALSE(turned([](auto& s) { s.highCut = 3000; }));
}

TEST(DrumLayers, AreCutToTheirLengthPitchAndBands) {
  LayerSettings settings;
  settings.lengthMs = 20;
  settings.cents = 1200;
  settings.lowCut = 2000;
  const auto made = layered(kit(), DrumClass::kick, drumSound(0, 120), settings);
  const auto strokes = strokesOf(made.song, made.song.layers.back());
  const auto plan = compilePlan(made.song, made.pool);
  const auto heard = heardOn(plan, made.song.layers.back().track, whole(made.song));
  const auto at = static_cast<std::size_t>(strokes[3].at.value);
  EXPECT_GT(energyOf(std::span(heard).subspan(at, 900)), 0);
  EXPECT_EQ(energyOf(std::span(heard).subspan(at + 1100, 3000)), 0);
}

}  // namespace
}  // namespace ochron

// What a recording is made of, told by its hits: struck or not, however many noise candidates detection keeps.

#include "takes/material.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "edits/hit_edits.h"
#include "support/made_voice.h"
#include "support/song_maker.h"
#include "takes/detect_hits.h"

namespace ochron {
namespace {

/// A song of one track with its hits found, all that detection keeps.
struct Heard {
  explicit Heard(const std::vector<float>& sound) : made(test::songOf(*TempoMap::steady(48'000, 120), {sound}, {})) {
    Progress progress;
    made.song.tracks.front().guide = true;
    made.song.tracks.front().role = MicRole::none;
    const auto found = detectHits(made.song, made.take, made.set, made.pool, progress);
    EXPECT_TRUE(found);
    all = *found;
  }
  double struck() const { return struckShare(made.song, made.set, made.take, all, made.pool); }
  StretchMethod guess() const {
    return setDetectedHits(made.song, made.take, made.set, all, struck())
        ->materialOf(made.song.sets.front(), made.take);
  }
  test::MadeSong made;
  HitList all;
};

TEST(Material, AMixOfAWholeKitIsStruck) {
  for (const double bpm : {84.0, 120.0, 168.0}) {
    test::Style style;
    style.bars = 8;
    style.bpm = bpm;
    const auto performance = test::perform(style);
    std::vector<float> mix(performance.mics[0].size());
    for (const auto& mic : performance.mics)
      for (std::size_t i = 0; i < mix.size(); ++i) mix[i] += 0.4F * mic[i];
    const Heard heard(mix);
    EXPECT_GT(heard.struck(), 0.6) << bpm;
    EXPECT_EQ(heard.guess(), StretchMethod::drums) << bpm;
  }
}

TEST(Material, NoiseUnderAKitDoesNotMakeItSoft) {
  test::Style style;
  style.bars = 8;
  const auto performance = test::perform(style);
  auto sound = performance.mics[1];
  std::mt19937 dice(2);
  std::uniform_real_distribution<float> noise(-0.0007F, 0.0007F);
  for (auto& s : sound) s += noise(dice);
  const Heard heard(sound);
  EXPECT_GT(heard.all.size(), activeHits(heard.all, {}, 48'000).size()) << "detection keeps more than counts";
  EXPECT_EQ(heard.guess(), StretchMethod::drums) << heard.struck();
}

TEST(Material, AVoiceAndABowedLineAreNotStruck) {
  MadeVoice voice;
  voice.seconds = 6;
  for (int i = 0; i < 9; ++i) voice.notes.push_back({0.3 + 0.6 * i, 0.5, 57.0 + (i * 5) % 9});
  EXPECT_LT(Heard(voice.samples()).struck(), 0.5);
  std::vector<float> bowed(48'000 * 6);
  for (int n = 0; n < 6; ++n)
    for (int i = 0; i < 44'000; ++i) {
      const double t = i / 48'000.0;
      double x = 0;
      for (int h = 1; h < 9; ++h) x += std::sin(2 * M_PI * (196 + 30 * n) * h * t) / h;
      bowed[static_cast<std::size_t>(n) * 48'000 + static_cast<std::size_t>(i)] =
          static_cast<float>(0.1 * x * std::min(1.0, t / 0.05) * std::min(1.0, (44'000 - i) / 4'800.0));
    }
  const Heard heard(bowed);
  ASSERT_GE(activeHits(heard.all, {}, 48'000).size(), 3U);
  EXPECT_LT(heard.struck(), 0.5);
  EXPECT_EQ(heard.guess(), StretchMethod::chords) << heard.struck() << " " << heard.all.size();
}

/// Hammered strings of some partials each.
std::vector<float> pianoLike(double lower) {
  std::vector<float> out(48'000 * 6);
  std::mt19937 dice(6);
  std::normal_distribution<double> knock(0, 0.02);
  for (std::size_t chord = 0; chord < 12; ++chord)
    for (std::size_t i = 0; i < 30'000 && chord * 24'000 + i < out.size(); ++i) {
      const double t = static_cast<double>(i) / 48'000;
      double x = knock(dice) * std::exp(-t / 0.01);
      for (const double hz : {220.0, 277.2, 329.6})
        for (int h = 1; h < 7; ++h)
          x += std::exp(-t * (2 + h)) / (h * h) *
               std::sin(2 * M_PI * hz * std::exp2(static_cast<double>(chord % 4) / 6) * h * t);
      out[chord * 24'000 + i] += static_cast<float>(lower * 0.1 * x * std::min(1.0, t / 0.002));
    }
  return out;
}

TEST(Material, APianoWithThreeMicsIsNoKit) {
  auto made = test::songOf(*TempoMap::steady(48'000, 120), {pianoLike(1), pianoLike(0.7), pianoLike(0.4)}, {});
  for (auto& t : made.song.tracks) t.role = MicRole::none;
  made.song.tracks.front().guide = true;
  EXPECT_TRUE(made.song.isKit(made.song.sets.front(), made.take)) << "three mics of which nothing is known";
  Progress progress;
  const auto found = detectHits(made.song, made.take, made.set, made.pool, progress);
  ASSERT_TRUE(found);
  const auto struck = struckShare(made.song, made.set, made.take, *found, made.pool);
  const auto heard = *setDetectedHits(made.song, made.take, made.set, *found, struck);
  EXPECT_FALSE(heard.isKit(heard.sets.front(), made.take)) << struck;
  EXPECT_EQ(heard.materialOf(heard.sets.front(), made.take), StretchMethod::chords);
}

}  // namespace
}  // namespace ochron

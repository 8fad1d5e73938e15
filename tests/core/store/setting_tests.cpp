// Every number of the settings goes the whole way: file, command line, ranges.

#include <gtest/gtest.h>

#include <set>

#include "edits/hit_edits.h"
#include "edits/plan_edits.h"
#include "store/song_json.h"
#include "support/process.h"
#include "support/two_sets.h"
#include "takes/silence.h"

namespace ochron {
namespace {

TEST(Settings, EveryNumberIsSavedAndReadBack) {
  const test::TwoSets t;
  for (const auto& n : kTimingNumbers) {
    for (const double value : {n.range.low, n.range.high, n.range.fallback}) {
      TimingPlan plan;
      plan.settings.*n.field = value;
      const auto song = setTimingPlan(t.song, t.kit, plan);
      ASSERT_TRUE(song);
      const auto back = songFromJson(songToJson(*song), "song.json");
      ASSERT_TRUE(back) << n.key << ": " << back.error().message;
      EXPECT_EQ(back->find(t.kit)->plan->settings.*n.field, value) << n.key;
      EXPECT_EQ(*back, *song) << n.key;
    }
  }
}

TEST(Settings, ANumberOutOfItsRangeInAFileIsRefusedAndNamed) {
  const test::TwoSets t;
  for (const auto& n : kTimingNumbers) {
    TimingPlan plan;
    plan.settings.*n.field = n.range.high + 1;
    const auto back = songFromJson(songToJson(*setTimingPlan(t.song, t.kit, plan)), "song.json");
    ASSERT_FALSE(back) << n.key;
    EXPECT_NE(back.error().message.find(std::string(n.key)), std::string::npos) << back.error().message;
  }
}

template <class Settings, std::size_t N>
void describedOnce(const std::array<Setting<Settings>, N>& all) {
  std::set<std::string_view> keys;
  std::set<std::string_view> options;
  const Settings fresh{};
  for (const auto& n : all) {
    EXPECT_TRUE(keys.insert(n.key).second) << n.key;
    if (!n.option.empty()) EXPECT_TRUE(options.insert(n.option).second) << n.option;
    EXPECT_FALSE(n.help.empty()) << n.key;
    EXPECT_TRUE(n.range.accepts(n.range.fallback)) << n.key;
    EXPECT_LT(n.range.low, n.range.high) << n.key;
    EXPECT_EQ(fresh.*n.field, n.range.fallback) << n.key;
    EXPECT_EQ(&settingOf(all, n.field), &n) << "two descriptions of one field: " << n.key;
  }
}

TEST(Settings, FieldsKeysAndOptionsAreUnlikeAndFallbacksAreTheStructsOwn) {
  describedOnce(kTimingNumbers);
  describedOnce(kTuneNumbers);
  describedOnce(kAnchorNumbers);
  describedOnce(kHitNumbers);
  describedOnce(kGuideNumbers);
  describedOnce(kSilenceNumbers);
}

TEST(Settings, WhatCountsAsAHitIsSavedReadBackAndKeptToItsRanges) {
  const test::TwoSets t;
  const auto track = t.song.find(t.kit)->tracks.front();
  const auto both = [&](auto&& change, const auto& all) {
    for (const auto& n : all)
      for (const double value : {n.range.low, n.range.high, n.range.high + 1}) {
        HitSettings hits;
        change(hits, n.field, value);
        const auto song = setHitSettings(t.song, t.kit, hits);
        EXPECT_EQ(song.has_value(), n.range.accepts(value)) << n.key;
        if (!song) continue;
        const auto back = songFromJson(songToJson(*song), "song.json");
        ASSERT_TRUE(back) << n.key << ": " << back.error().message;
        EXPECT_EQ(back->find(t.kit)->hits, hits) << n.key;
      }
  };
  both([](HitSettings& h, double HitSettings::*field, double v) { h.*field = v; }, kHitNumbers);
  both([&](HitSettings& h, double GuideSettings::*field, double v) { h.guides[track].*field = v; }, kGuideNumbers);
}

TEST(Settings, EveryOptionIsOnTheCommandLineWithItsRange) {
  const auto run = test::run({OCHRON_CLI, "quantize", "--help"});
  ASSERT_EQ(run.status, 0);
  for (const auto& n : kTimingNumbers)
    if (!n.option.empty()) EXPECT_NE(run.out.find(std::string(n.option)), std::string::npos) << n.option;
  for (const auto& n : kHitNumbers)
    if (!n.option.empty()) EXPECT_NE(run.out.find(std::string(n.option)), std::string::npos) << n.option;
}

}  // namespace
}  // namespace ochron

// Every number of the timing plan goes the whole way: file, command line, ranges.

#include <gtest/gtest.h>

#include <set>

#include "edits/plan_edits.h"
#include "store/song_json.h"
#include "support/process.h"
#include "support/two_sets.h"

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

TEST(Settings, FieldsKeysAndOptionsAreUnlikeAndFallbacksAreTheStructsOwn) {
  std::set<std::string_view> keys;
  std::set<std::string_view> options;
  const TimingSettings fresh;
  for (const auto& n : kTimingNumbers) {
    EXPECT_TRUE(keys.insert(n.key).second) << n.key;
    if (!n.option.empty()) EXPECT_TRUE(options.insert(n.option).second) << n.option;
    EXPECT_FALSE(n.help.empty()) << n.key;
    EXPECT_TRUE(n.range.accepts(n.range.fallback)) << n.key;
    EXPECT_EQ(fresh.*n.field, n.range.fallback) << n.key;
    EXPECT_EQ(&timingNumber(n.field), &n) << "two descriptions of one field: " << n.key;
  }
}

TEST(Settings, EveryOptionIsOnTheCommandLineWithItsRange) {
  const auto run = test::run({OCHRON_CLI, "quantize", "--help"});
  ASSERT_EQ(run.status, 0);
  for (const auto& n : kTimingNumbers)
    if (!n.option.empty()) EXPECT_NE(run.out.find(std::string(n.option)), std::string::npos) << n.option;
}

}  // namespace
}  // namespace ochron

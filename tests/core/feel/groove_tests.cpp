#include "feel/groove.h"

#include <gtest/gtest.h>

#include <fstream>

#include "song/edits.h"
#include "store/groove_file.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::MadeSong lateSnare() {
  test::Style style;
  style.snareLateMs = 14;
  style.ghostShare = 0;
  style.driftMs = 0;
  return test::songOf(test::perform(style));
}

TEST(Groove, TakesThePocketOfEachPlace) {
  const auto m = lateSnare();
  const auto g = takeGroove(m.song, m.set, "late");
  ASSERT_TRUE(g.has_value());
  ASSERT_EQ(g->offsetsMs.size(), 16u);
  EXPECT_NEAR(g->offsetsMs[4], 14, 1.5);
  EXPECT_NEAR(g->offsetsMs[0], 0, 1.5);
  EXPECT_GT(g->loudness[4], 0.7);
  EXPECT_EQ(g->loudness[1], 0);
}

TEST(Groove, AppliedInFullPutsHitsAtItsOffsetsAndHalfwayAtHalf) {
  const auto m = lateSnare();
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.groove = *takeGroove(m.song, m.set, "late");
  for (const double amount : {100.0, 50.0, 0.0}) {
    plan.settings.grooveAmount = amount;
    const auto timing = planTiming(*setTimingPlan(m.song, m.set, plan), m.set);
    for (std::size_t i = 0; i < timing.hits.size(); ++i) {
      const auto& h = timing.hits[i];
      if (h.leader != i || !h.line) continue;
      const double wanted = plan.settings.groove->offsetsMs[static_cast<std::size_t>(h.line->place)] * amount / 100;
      ASSERT_NEAR(h.afterMs, wanted, 0.02);
    }
  }
}

TEST(Groove, FileRoundTripsAndNonsenseIsRefused) {
  const test::Scratch scratch;
  const Groove g{"late", {8, StepKind::triplet, 50}, {6, 8}, {1.5, -2, 0}, {1, 0.5, 0}};
  Outputs outputs;
  ASSERT_TRUE(writeGroove(g, scratch / "late.json", outputs));
  ASSERT_TRUE(outputs.commit());
  EXPECT_EQ(*readGrooveFile(scratch / "late.json", {}), g);
  std::ofstream(scratch / "bad.json")
      << R"({"orthochron groove": 1, "name": "x", "grid": {"step": "1/16", "swing": 50}, "meter": "4/4", "offsets ms": [1e9], "loudness": []})";
  EXPECT_FALSE(readGrooveFile(scratch / "bad.json", {}));
  EXPECT_FALSE(readGrooveFile(scratch / "none.json", {}));
}

TEST(Groove, ASilentPerformanceHasNone) {
  const auto map = *TempoMap::steady(48'000, 120);
  const auto m = test::songOf(map, {std::vector<float>(48'000, 0.0f)}, {});
  EXPECT_FALSE(takeGroove(m.song, m.set, "nothing"));
}

}  // namespace
}  // namespace ochron

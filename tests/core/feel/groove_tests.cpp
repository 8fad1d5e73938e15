#include "feel/groove.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>

#include "edits/plan_edits.h"
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

/// A stiff performance under a groove whose player is now and then very late, and mostly a little early.
struct GivenScatter : ::testing::Test {
  void SetUp() override {
    test::Style style;
    style.bars = 64;
    style.scatterMs = 0, style.driftMs = 0, style.ghostShare = 0;
    m = test::songOf(test::perform(style));
    plan.settings.on = true;
    auto& g = plan.settings.groove.emplace();
    g.grid = plan.settings.grid;
    g.offsetsMs.assign(16, 0.0);
    g.loudness.assign(16, 1.0);
    g.scatterMs.assign(16, {-4, -4, -4, -4, -4, -4, -4, -4, 16, 16});
    plan.settings.givenScatter = 100;
  }
  std::vector<double> after() const {
    std::vector<double> out;
    const auto timing = planTiming(*setTimingPlan(m.song, m.set, plan), m.set);
    for (std::size_t i = 0; i < timing.hits.size(); ++i)
      if (timing.hits[i].leader == i && timing.hits[i].line) out.push_back(timing.hits[i].afterMs);
    return out;
  }
  test::MadeSong m;
  TimingPlan plan;
};

TEST_F(GivenScatter, HasThePlayersProportionsOfEarlyAndLate) {
  const auto ms = after();
  ASSERT_GT(ms.size(), 300u);
  const auto n = static_cast<double>(ms.size());
  const auto share = [&](auto pick) { return static_cast<double>(std::count_if(ms.begin(), ms.end(), pick)) / n; };
  EXPECT_NEAR(share([](double x) { return x < -3.9; }), 0.75, 0.06) << "the rest lies between the two";
  EXPECT_NEAR(share([](double x) { return x > 15.9; }), 0.15, 0.05);
  for (const double x : ms) ASSERT_TRUE(x >= -4.03 && x <= 16.03) << x;
}

TEST_F(GivenScatter, IsTheSameForTheSameDrawingAndScalesWithItsAmount) {
  const auto first = after();
  EXPECT_EQ(after(), first);
  plan.settings.givenScatter = 50;
  const auto half = after();
  ASSERT_EQ(half.size(), first.size());
  for (std::size_t i = 0; i < half.size(); ++i) ASSERT_NEAR(half[i], first[i] / 2, 0.03);
  plan.settings.givenScatter = 100;
  plan.settings.scatterDraw = 2;
  const auto other = after();
  std::size_t differ = 0;
  for (std::size_t i = 0; i < other.size(); ++i) differ += std::abs(other[i] - first[i]) > 1 ? 1 : 0;
  EXPECT_GT(differ, other.size() / 8);
  plan.settings.givenScatter = 0;
  for (const double x : after()) ASSERT_NEAR(x, 0, 0.03) << "none given";
}

TEST_F(GivenScatter, APlaceThePlayerHardlyPlayedDrawsFromTheWholeBar) {
  plan.settings.groove->scatterMs.assign(16, {});
  plan.settings.groove->scatterMs[0] = {7, 7, 7, 7, 7};
  for (const double x : after()) ASSERT_NEAR(x, 7, 0.03);
}

TEST(Groove, OfALoosePlayerKnowsTheScatter) {
  test::Style style;
  style.bars = 64;
  style.scatterMs = 6, style.driftMs = 0, style.ghostShare = 0;
  const auto m = test::songOf(test::perform(style));
  const auto g = takeGroove(m.song, m.set, "loose");
  ASSERT_TRUE(g.has_value());
  const auto& on = g->scatterMs[0];
  ASSERT_GE(on.size(), 30u);
  ASSERT_LE(on.size(), 64u);
  EXPECT_TRUE(std::is_sorted(on.begin(), on.end()));
  double square = 0;
  for (const double x : on) square += x * x / static_cast<double>(on.size());
  EXPECT_NEAR(std::sqrt(square), 6, 1.5);
}

TEST(Groove, FileRoundTripsAndNonsenseIsRefused) {
  const test::Scratch scratch;
  const Groove g{"late", {8, StepKind::triplet, 50}, {6, 8}, {1.5, -2, 0}, {1, 0.5, 0}, {{-3, 1, 2}, {}, {}}};
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

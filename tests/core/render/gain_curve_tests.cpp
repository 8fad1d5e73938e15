#include "render/gain_curve.h"
#include "support/units.h"

#include <gtest/gtest.h>

#include <cmath>

namespace ochron {
namespace {

using test::f;

float at(const GainCurve& curve, Frames place) { return CurveReader(curve, place).at(place); }

TEST(GainCurve, IsStraightBetweenItsPointsLevelOutsideAndOneWhenEmpty) {
  const GainCurve curve{{f(100), 1}, {f(200), 0}};
  EXPECT_FLOAT_EQ(at(curve, f(0)), 1);
  EXPECT_FLOAT_EQ(at(curve, f(125)), 0.75f);
  EXPECT_FLOAT_EQ(at(curve, f(900)), 0);
  EXPECT_FLOAT_EQ(at({}, f(5)), 1);
}

TEST(GainCurve, DecibelsAreFollowedWithinThreeHundredthsOfADecibel) {
  const Envelope e{{f(0), 0, -1}, {f(48'000), -40, 0.4}, {f(60'000), 6, 1}, {f(90'000), -30, 0}};
  const auto curve = decibelCurve(e);
  for (std::int64_t i = 0; i < 90'000; i += 97)
    EXPECT_NEAR(20 * std::log10(at(curve, f(i))), valueAt(e, f(i), 0), 0.03) << i;
}

TEST(GainCurve, TheLowestGainIsSilence) {
  const auto curve = decibelCurve({{f(0), kSilentDb, 0}, {f(100), 0, 0}});
  EXPECT_EQ(at(curve, f(0)), 0);
  EXPECT_EQ(at(curve, f(-50)), 0);
}

TEST(GainCurve, AProductHasTheFallOfBoth) {
  const GainCurve a{{f(0), 1}, {f(100), 0.5f}};
  const GainCurve b{{f(50), 1}, {f(60), 0}};
  const auto both = product(a, b);
  EXPECT_FLOAT_EQ(at(both, f(50)), 0.75f);
  EXPECT_FLOAT_EQ(at(both, f(60)), 0);
  EXPECT_EQ(product(a, {}), a);
  EXPECT_EQ(product({}, b), b);
}

TEST(GainCurve, BlocksOfAnySizeComeOutAlike) {
  const auto curve = decibelCurve({{f(3), -20, 0.5}, {f(777), 3, 0}});
  std::vector<float> whole(1000, 1.0f);
  applyGain(curve, f(0), whole);
  for (const std::size_t block : {1u, 7u, 64u, 333u}) {
    std::vector<float> parts(1000, 1.0f);
    for (std::size_t i = 0; i < parts.size(); i += block)
      applyGain(curve, f(static_cast<std::int64_t>(i)), std::span(parts).subspan(i, std::min(block, parts.size() - i)));
    EXPECT_EQ(parts, whole) << block;
  }
}

TEST(Gate, SpansThatTouchOrOverlapAreOneAndNearOnesKeepWhatIsBetween) {
  const auto one = gateCurve({{f(10'000), f(20'000)}, {f(15'000), f(30'000)}, {f(30'000), f(31'000)}}, 48'000);
  for (const std::int64_t i : {10'000, 20'000, 29'000, 30'500}) EXPECT_EQ(at(one, f(i)), 0) << i;
  const auto near = gateCurve({{f(10'000), f(20'000)}, {f(20'100), f(30'000)}}, 48'000);
  EXPECT_EQ(at(near, f(20'000)), 1);
  EXPECT_EQ(at(near, f(20'040)), 1);
  EXPECT_EQ(at(near, f(20'100)), 0);
  for (std::size_t i = 1; i < near.size(); ++i) EXPECT_LT(near[i - 1].at, near[i].at);
  EXPECT_TRUE(gateCurve({{f(5), f(5)}}, 48'000).empty());
}

TEST(Gate, ASpanShorterThanItsFadesIsStillSilentAtItsStart) {
  const auto gate = gateCurve({{f(1000), f(1050)}}, 48'000);
  EXPECT_EQ(at(gate, f(1000)), 0);
  EXPECT_EQ(at(gate, f(1050)), 1);
}

}  // namespace
}  // namespace ochron

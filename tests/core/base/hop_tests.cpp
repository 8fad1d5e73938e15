#include "base/hop.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace ochron {
namespace {

TEST(Hop, StaysWithinHalfAFrameOfItsTimeForHoursAtEveryRate) {
  for (const int rate : {8'000, 11'025, 22'050, 32'000, 44'100, 48'000, 88'200, 96'000, 176'400, 192'000})
    for (const int perSecond : {100, 200, 400, 1000, 4000}) {
      const Hop hop(perSecond, rate);
      for (const std::int64_t n : {0, 1, 7, 200, 12'001, 2'160'001, 86'400'003}) {
        const double exact = static_cast<double>(n) * rate / perSecond;
        EXPECT_LE(std::abs(static_cast<double>(hop.frame(n)) - exact), 0.5) << rate << " Hz, step " << n;
        EXPECT_NEAR(hop.seconds(n), static_cast<double>(n) / perSecond, 1e-12);
      }
    }
}

TEST(Hop, KnowsTheStepThatAFrameLiesIn) {
  std::mt19937_64 dice(3);
  for (const int rate : {8'000, 22'050, 44'100, 48'000, 96'000, 192'000}) {
    const Hop hop(400, rate);
    for (int i = 0; i < 2000; ++i) {
      const auto f = static_cast<std::int64_t>(dice() % 100'000'000);
      const auto n = hop.stepAt(f);
      EXPECT_LE(hop.frame(n), f);
      EXPECT_GT(hop.frame(n + 1), f);
      EXPECT_EQ(hop.stepAt(hop.frame(n)), n);
      EXPECT_EQ(hop.nearest(hop.frame(n)), n);
    }
  }
}

TEST(Hop, CountsTheStepsThatBeginWithin) {
  const Hop hop(200, 44'100);
  EXPECT_EQ(hop.count(0), 0);
  EXPECT_EQ(hop.count(1), 1);
  EXPECT_EQ(hop.count(44'100), 200);
  EXPECT_EQ(hop.steps(0.06), 12);
  EXPECT_EQ(hop.steps(0.025), 5);
}

TEST(Hop, OfTheSameRateIsTheIdentity) {
  const Hop same(48'000, 48'000);
  for (const std::int64_t f : {-7, 0, 1, 123'456'789}) EXPECT_EQ(same.nearest(f), f);
}

}  // namespace
}  // namespace ochron

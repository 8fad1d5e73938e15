#include "base/numbers.h"

#include <gtest/gtest.h>

#include <cmath>
#include <cstring>
#include <random>

#include "base/setting.h"

namespace ochron {
namespace {

TEST(Numbers, OnlyAWholeFiniteNumberIsOne) {
  EXPECT_EQ(parseNumber("1.5"), 1.5);
  EXPECT_EQ(parseNumber("+2"), 2.0);
  EXPECT_EQ(parseNumber("-3e2"), -300.0);
  for (const char* bad :
       {"", "+", "+-1", "1,5", "1.5 ", " 1", "nan", "NaN", "inf", "-inf", "infinity", "1e999", "0x10", "1.5dB"})
    EXPECT_FALSE(parseNumber(bad)) << bad;
}

TEST(Numbers, TheShortestTextReadsBackAsTheSameNumber) {
  std::mt19937_64 dice(1);
  for (int i = 0; i < 20'000; ++i) {
    const auto bits = dice();
    double v = 0;
    static_assert(sizeof v == sizeof bits);
    std::memcpy(&v, &bits, sizeof v);
    if (!std::isfinite(v)) continue;
    ASSERT_EQ(parseNumber(shortest(v)), v);
  }
}

TEST(Numbers, FixedTextHasItsDigitsAndNoNegativeZero) {
  EXPECT_EQ(fixed(1.25, 1), "1.2");
  EXPECT_EQ(fixed(-0.04, 1), "0.0");
  EXPECT_EQ(fixed(-0.06, 1), "-0.1");
  EXPECT_EQ(fixed(1e20, 0), "100000000000000000000");
  EXPECT_EQ(signedFixed(2, 1), "+2.0");
  EXPECT_EQ(signedFixed(-0.01, 1), "+0.0");
}

TEST(Settings, WhatIsNoNumberBecomesTheDefault) {
  constexpr SettingRange range{"x", "ms", -5, 10, 1, 3};
  EXPECT_EQ(range.clamp(std::nan("")), 3);
  EXPECT_EQ(range.clamp(INFINITY), 10);
  EXPECT_EQ(range.clamp(-INFINITY), -5);
  EXPECT_FALSE(range.accepts(std::nan("")));
}

}  // namespace
}  // namespace ochron

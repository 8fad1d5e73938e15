#include "store/scala_file.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace ochron {
namespace {

constexpr const char* kJust = "! just.scl\n!\nA just scale\r\n 7\n!\n 9/8\n 5/4 third\n 4/3\n 3/2\n 5/3\n 15/8\n 2/1\n";

TEST(ScalaFile, RatiosAndCentsAreRead) {
  const auto scale = scalaFromText(kJust, 2, "just.scl");
  ASSERT_TRUE(scale) << scale.error().message;
  EXPECT_EQ(scale->name, "A just scale");
  EXPECT_EQ(scale->tonic, 2);
  ASSERT_EQ(scale->steps.size(), 7U);
  EXPECT_NEAR(scale->steps[2], 386.3137, 1e-3);
  EXPECT_NEAR(scale->octave, 1200, 1e-9);
  const auto even = scalaFromText("five\n5\n240.\n480.0\n720.\n960.\n2\n", 0, "five.scl");
  ASSERT_TRUE(even) << even.error().message;
  EXPECT_EQ(even->steps, (std::vector<double>{0, 240, 480, 720, 960}));
}

TEST(ScalaFile, AnOctaveOfItsOwnRepeats) {
  const auto scale = scalaFromText("thirds of a fifth\n3\n234.\n468.\n3/2\n", 0, "x.scl");
  ASSERT_TRUE(scale) << scale.error().message;
  const double base = scale->tonicCents();
  EXPECT_NEAR(scale->nearest(base + 701.955 + 240), base + 701.955 + 234, 1e-3);
}

TEST(ScalaFile, WhatIsBrokenIsSaidWithItsLine) {
  for (const char* text : {"", "title", "t\nmany\n", "t\n0\n", "t\n2\n9/8\n", "t\n2\nloud\n2/1\n", "t\n1\n-3/2\n",
                           "t\n1\n0/0\n", "t\n1\n1e9\n", "t\n1201\n2\n", "t\n2\n1300.\n1200.\n", "t\n1\n0.\n"}) {
    const auto scale = scalaFromText(text, 0, "odd.scl");
    ASSERT_FALSE(scale) << text;
    EXPECT_NE(scale.error().message.find("odd.scl"), std::string::npos);
    EXPECT_NE(scale.error().message.find("line"), std::string::npos);
  }
}

TEST(ScalaFile, DamagedOnesAreReadOrRefusedNeverHalf) {
  std::mt19937 dice(11);
  const std::string good = kJust;
  for (int round = 0; round < 3000; ++round) {
    auto text = good;
    for (int k = 0; k < 3; ++k) text[dice() % text.size()] = static_cast<char>(dice() % 128);
    const auto scale = scalaFromText(text, 0, "x");
    if (!scale) continue;
    ASSERT_FALSE(scale->steps.empty());
    for (std::size_t i = 1; i < scale->steps.size(); ++i) ASSERT_LT(scale->steps[i - 1], scale->steps[i]);
    ASSERT_LT(scale->steps.back(), scale->octave);
    ASSERT_TRUE(std::isfinite(scale->nearest(7000)));
  }
}

}  // namespace
}  // namespace ochron

// The A4 that a line was sung to.

#include "tune/reference.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace ochron {
namespace {

std::vector<SungNote> sungTo(double a4, double spread, unsigned seed = 3) {
  std::mt19937 dice(seed);
  std::normal_distribution<double> off(0, spread);
  std::vector<SungNote> out;
  double at = 0;
  for (const int midi : {60, 62, 64, 65, 67, 69, 71, 72, 67, 64, 60, 59}) {
    out.push_back({at, at + 0.5, a4 * std::exp2((midi - 69) / 12.0 + off(dice) / 1200)});
    at += 0.6;
  }
  return out;
}

TEST(Reference, IsFoundWhereverTheLineWasTuned) {
  for (const double a4 : {430.0, 435.5, 440.0, 442.0, 449.0}) EXPECT_NEAR(*referenceOf(sungTo(a4, 0)), a4, 0.06);
}

TEST(Reference, ScatterOfTheSingerHardlyMovesIt) {
  for (unsigned seed = 0; seed < 20; ++seed) EXPECT_NEAR(*referenceOf(sungTo(443, 12, seed)), 443, 2.5) << seed;
}

TEST(Reference, NotesThatAgreeOnNothingHaveNone) {
  std::vector<SungNote> notes;
  notes.reserve(20);
  for (int i = 0; i < 20; ++i) notes.push_back({i * 0.5, i * 0.5 + 0.4, 440 * std::exp2(i * 5.0 / 1200)});
  EXPECT_FALSE(referenceOf(notes));
  EXPECT_FALSE(referenceOf({{0, 1, 440}}));
}

}  // namespace
}  // namespace ochron

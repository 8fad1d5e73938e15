// Drums in a whole band: struck on exact frames under held, swelling chords that are louder than they are.

#include <gtest/gtest.h>

#include <cmath>

#include "support/made_mic.h"
#include "support/performance.h"

namespace ochron {
namespace {

using test::kRate;

struct Band {
  std::vector<float> samples;
  std::vector<Frames> strokes;
};

/// A beat of kick, snare and noise hats on every eighth, or none, under a distorted chord.
Band band(double seconds, double chordLevel, bool drums = true) {
  test::Take take(seconds);
  std::mt19937 dice(11);
  std::uniform_int_distribution<int> late(-400, 400);
  Band out;
  int k = 0;
  for (double at = 0.4; drums && at < seconds - 0.5; at += 0.25, ++k) {
    const auto frame = std::llround(at * kRate) + late(dice);
    out.strokes.emplace_back(frame);
    if (k % 4 == 0) take.kick(frame, 0.5);
    if (k % 4 == 2) take.snare(frame, 0.5);
    take.hit(frame, 6000, 15, 0.95, 0.5);
  }
  // The chord swells and beats; its edges of distortion reach up to 6 kHz.
  for (std::size_t i = 0; i < take.samples.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    double chord = 0;
    for (const double hz : {82.4, 123.5, 164.8, 165.9}) chord += std::sin(2 * M_PI * hz * t);
    const double swell = 0.7 + 0.3 * std::sin(2 * M_PI * 0.6 * t);
    take.samples[i] += static_cast<float>(chordLevel * swell * std::tanh(2 * chord));
  }
  out.samples = std::move(take.samples);
  return out;
}

TEST(Mix, StrokesUnderALouderChordAreFoundWhereTheyAre) {
  const auto made = band(40, 0.25);
  GuideSignal mic;
  mic.samples = made.samples;
  std::vector<Frames> found;
  for (const auto& o : test::counting({mic})) found.push_back(o.at);
  const auto score = test::compare(made.strokes, found, kRate, 8);
  EXPECT_GT(score.recall, 0.95);
  EXPECT_GT(score.precision, 0.95);
  EXPECT_LT(score.medianMs, 2);
}

TEST(Mix, AHeldChordAloneHasNoneButWhereItBeats) {
  const auto made = band(40, 0.25, false);
  GuideSignal mic;
  mic.samples = made.samples;
  EXPECT_LT(test::counting({mic}).size(), 16U);  // 157 with the drums
}

}  // namespace
}  // namespace ochron

// Tones that go on, and tones that are begun anew at the pitch they have.

#include "analysis/pitch/cycle_break.h"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>

#include "analysis/pitch/local_period.h"
#include "analysis/pitch/notes.h"
#include "support/heard_line.h"
#include "support/units.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

using test::kRate;

constexpr double kSeconds = 2.4;

/// What happens to a tone of eight harmonics along the way.
struct Tone {
  double hertz = 220;
  std::vector<double> begunAnew = {};  ///< s: its phase jumps here, its level does not
  std::function<double(double)> cents = [](double) { return 0.0; };
  std::function<double(double)> level = [](double) { return 1.0; };
  double noise = 1e-3;  ///< of the tone

  std::vector<float> samples() const {
    std::mt19937 dice(7);
    std::normal_distribution<double> hiss(0, noise);
    std::vector<float> out(static_cast<std::size_t>(kSeconds * kRate));
    double phase = 0;
    std::size_t anew = 0;
    for (std::size_t i = 0; i < out.size(); ++i) {
      const double t = static_cast<double>(i) / kRate;
      if (anew < begunAnew.size() && t >= begunAnew[anew]) {
        phase += 2.2;
        ++anew;
      }
      phase += 2 * M_PI * hertz * std::exp2(cents(t) / 1200) / kRate;
      double x = hiss(dice);
      for (int h = 1; h <= 8; ++h) x += std::sin(h * phase) / h;
      out[i] = static_cast<float>(0.2 * level(t) * x);
    }
    return out;
  }
};

struct Going {
  const char* name;
  Tone tone;
};

std::vector<Going> tonesThatGoOn() {
  return {
      {"steady", {}},
      {"low", {.hertz = 55}},
      {"high", {.hertz = 1100}},
      {"very high, with vibrato", {.hertz = 1397, .cents = [](double t) { return 30 * std::sin(2 * M_PI * 5 * t); }}},
      {"vibrato", {.cents = [](double t) { return 50 * std::sin(2 * M_PI * 5.6 * t); }}},
      {"glide", {.cents = [](double t) { return 60 * std::sin(2 * M_PI * 0.4 * t); }}},
      {"tremolo", {.level = [](double t) { return 0.7 + 0.3 * std::sin(2 * M_PI * 5 * t); }}},
      {"swell", {.level = [](double t) { return 0.3 + 0.7 * std::clamp((t - 1) / 0.2, 0.0, 1.0); }}},
      {"dying away", {.level = [](double t) { return std::exp(-2 * t); }}}};
}

double aboveUsualAt(const std::vector<float>& x, double seconds) {
  const auto broken = cycleBreakAt(x, kRate, seconds);
  return broken ? broken->aboveUsual : -1;
}

TEST(CycleBreak, ATonesOwnMovementsAreNone) {
  for (const auto& [name, tone] : tonesThatGoOn()) {
    const auto x = tone.samples();
    for (double t = 0.3; t < 2.1; t += 0.045) EXPECT_LT(aboveUsualAt(x, t), 0.6) << name << " at " << t;
  }
}

TEST(CycleBreak, OneBegunAnewIsToldWhateverTheToneDoesBeside) {
  for (const auto& [name, tone] : tonesThatGoOn()) {
    auto anew = tone;
    anew.begunAnew = {0.7, 1.23, 1.7};
    const auto x = anew.samples();
    for (const double t : anew.begunAnew)
      for (const double off : {-0.015, 0.0, 0.015}) EXPECT_GT(aboveUsualAt(x, t + off), 0.8) << name << " at " << t;
  }
}

TEST(CycleBreak, StandsOutOfWhatIsUsualAndIsNotKnownBeyondTheEnds) {
  Tone tone;
  tone.begunAnew = {1.0};
  const auto x = tone.samples();
  const auto there = cycleBreakAt(x, kRate, 1.01);
  ASSERT_TRUE(there);
  EXPECT_GT(there->aboveUsual, 1);
  EXPECT_GT(there->aboveMost, 0.7);
  const auto elsewhere = cycleBreakAt(x, kRate, 1.5);
  ASSERT_TRUE(elsewhere);
  EXPECT_LT(elsewhere->aboveUsual, 0.6);
  EXPECT_GT(there->weighed(1, 1), elsewhere->weighed(1, 1) + 1);
  EXPECT_LE(CycleBreak({9, 9, 1}).weighed(1, 1), 2.7) << "what is far above tells no more";
  for (const double end : {0.0, 0.05, kSeconds - 0.05, kSeconds + 3})
    EXPECT_FALSE(cycleBreakAt(x, kRate, end)) << "nothing is known beyond the recording's ends";
}

TEST(CycleBreak, AChangeOfPitchAndNoiseHaveNone) {
  const auto step = Tone{.cents = [](double t) { return t < 1 ? 0.0 : 300.0; }}.samples();
  EXPECT_FALSE(cycleBreakAt(step, kRate, 1.0));
  const auto noise = Tone{.level = [](double) { return 0.1; }, .noise = 30}.samples();
  EXPECT_FALSE(cycleBreakAt(noise, kRate, 1.0));
  EXPECT_FALSE(cycleBreakAt(std::vector<float>(static_cast<std::size_t>(kRate)), kRate, 0.5));
}

TEST(LocalPeriod, IsTheShortestThatFits) {
  for (const double hertz : {41.5, 82.4, 220.0, 440.0, 987.8}) {
    const auto x = Tone{.hertz = hertz}.samples();
    const auto period = localPeriod(std::span(x).subspan(20'000, 4'320), kRate);
    ASSERT_TRUE(period) << hertz;
    EXPECT_NEAR(*period, kRate / hertz, 1) << hertz;
  }
}

TEST(LocalPeriod, ChordsSilenceAndTooLittleHaveNone) {
  std::vector<float> chord(4'320);
  for (const double hertz : {220.0, 277.2, 331.0}) {
    const auto x = Tone{.hertz = hertz}.samples();
    for (std::size_t i = 0; i < chord.size(); ++i) chord[i] += x[i + 9'000];
  }
  if (const auto period = localPeriod(chord, kRate)) EXPECT_GT(*period, kRate / 150.0) << "none of its notes'";
  EXPECT_FALSE(localPeriod(std::vector<float>(4'320), kRate));
  EXPECT_FALSE(localPeriod(std::vector<float>(40, 0.5F), kRate));
  EXPECT_FALSE(localPeriod({}, kRate));
}

TEST(Notes, AnOnsetAmidAPitchBeginsItAnewWhereItsCyclesBreakOffThoughTheLevelStays) {
  Tone tone;
  tone.begunAnew = {1.0};
  tone.cents = [](double t) { return t < 1 ? 0.0 : 14.0; };
  const auto x = tone.samples();
  const auto notes = notesOf(test::heardPitch(x), x, kRate, {0.5, 1.004, 1.03, 1.6, 2.38}, test::unwatched());
  ASSERT_EQ(notes.size(), 2u);
  EXPECT_EQ(notes[1].start, 1.004);
  EXPECT_EQ(notes[0].end, 1.004);
  EXPECT_NEAR(1200 * std::log2(notes[1].hertz / notes[0].hertz), 14, 3) << "each has its own pitch";
}

TEST(Notes, AStringThatDiesAwayIsOneThoughItsPitchDriftsAndItsCyclesBreakOff) {
  Tone string{.hertz = 41.2, .begunAnew = {1.5}};
  string.level = [](double t) { return 3 * std::exp(-1.2 * t); };
  string.cents = [](double t) { return t < 1 ? 0.0 : 25.0; };
  const auto x = string.samples();
  EXPECT_EQ(notesOf(test::heardPitch(x), x, kRate, {0.01, 1.0, 1.5}, test::unwatched()).size(), 1u);
  string.level = [](double t) { return 3 * std::exp(-1.2 * (t < 1.5 ? t : t - 1.5)); };
  const auto anew = string.samples();
  EXPECT_EQ(notesOf(test::heardPitch(anew), anew, kRate, {0.01, 1.0, 1.5}, test::unwatched()).size(), 2u)
      << "struck again";
}

TEST(Notes, APipeThatSpeaksSoftlyBeforeItSoundsIsOne) {
  Tone pipe{.begunAnew = {0.42}};
  pipe.level = [](double t) { return t < 0.25 ? 0.0 : t < 0.42 ? 0.15 : 1.2; };
  const auto x = pipe.samples();
  EXPECT_EQ(notesOf(test::heardPitch(x), x, kRate, {0.25, 0.42}, test::unwatched()).size(), 1u);
}

}  // namespace
}  // namespace ochron

// Tempo, beats and bars of made-up recordings whose tempo was set.

#include "analysis/tempo/tempo.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <string>

#include "analysis/tempo/beat_pointer.h"
#include "analysis/tempo/loop_length.h"
#include "analysis/tempo/steady_line.h"
#include "support/drum_pattern.h"
#include "time/grid.h"

namespace ochron {
namespace {

using test::kPatternRate;
using test::pattern;
using test::strike;
constexpr int kTempoRate = kPatternRate;

/// A kit: kick on the first and third quarter, snare on the others, hat on eighths. `at(beat)`: seconds.
template <class At>
std::vector<float> kit(int beats, double seconds, At at, int perBar = 4) {
  std::vector<float> out(static_cast<std::size_t>(seconds * kTempoRate), 0.0F);
  for (int b = 0; b < beats; ++b) {
    const int place = b % perBar;
    if (place == 0 || (perBar == 4 && place == 2))
      strike(out, at(b), 60, 0.8, 0.12);
    else
      strike(out, at(b), 0, 0.4, 0.06);
    for (const double half : {0.0, 0.5}) strike(out, at(b + half), 0, 0.12, 0.015);
  }
  return out;
}

double bpmOf(const std::vector<float>& sound, TempoSearch search = {}) {
  Progress progress;
  const auto heard = hearTempo(sound, kTempoRate, search, progress);
  EXPECT_TRUE(heard) << heard.error().message;
  return heard ? heard->bpm : 0;
}

class Steady : public ::testing::TestWithParam<double> {};

TEST_P(Steady, ATempoPlayedToAClickIsExactToAHundredthOfAPercent) {
  const double bpm = GetParam();
  const auto sound = kit(48, 48 * 60 / bpm + 1.3, [&](double b) { return 0.7 + b * 60 / bpm; });
  const double heard = bpmOf(sound);
  EXPECT_NEAR(heard / bpm, 1, 1e-4) << heard;
}
INSTANTIATE_TEST_SUITE_P(Tempi, Steady, ::testing::Values(72.0, 93.5, 104.25, 121.0, 138.7));

TEST(Tempo, BeatsAndDownbeatsStandOnTheAttacks) {
  const auto at = [](double b) { return 0.5 + b * 60 / 110.0; };
  const auto sound = kit(64, 64 * 60 / 110.0 + 1, at);
  Progress progress;
  const auto heard = hearTempo(sound, kTempoRate, {}, progress);
  ASSERT_TRUE(heard);
  EXPECT_EQ(heard->meter, (Meter{4, 4}));
  EXPECT_TRUE(heard->steady);
  ASSERT_NEAR(static_cast<double>(heard->beats.size()), 64, 1);
  for (const double b : heard->beats) {
    const double beat = (b - 0.5) * 110 / 60;
    EXPECT_LT(std::abs(beat - std::round(beat)) * 60 / 110, 0.012) << b;
  }
}

struct Played {
  const char* name;
  std::string bar;
  double step;  // s
  Meter meter;
  double bpm;
};

class Meters : public ::testing::TestWithParam<Played> {};

TEST_P(Meters, BarsAreHeardInTheirMeterFromTheirFirstBeatOn) {
  const auto& p = GetParam();
  constexpr double kStart = 0.9;
  Progress progress;
  const auto heard = hearTempo(pattern(p.bar, 14, p.step, kStart), kTempoRate, {}, progress);
  ASSERT_TRUE(heard) << heard.error().message;
  EXPECT_NEAR(heard->bpm, p.bpm, 0.02);
  EXPECT_EQ(heard->meter, p.meter) << toText(heard->meter);
  ASSERT_GE(heard->downbeats.size(), 13U);
  const double bar = p.step * static_cast<double>(p.bar.size());
  for (const double d : heard->downbeats) {
    const double place = (d - kStart) / bar;
    EXPECT_LT(std::abs(place - std::round(place)) * bar, 0.012) << d;
  }
}
INSTANTIATE_TEST_SUITE_P(Bars, Meters,
                         ::testing::Values(Played{"Rock", "KhShkKSh", 0.25, {4, 4}, 120},
                                           Played{"Waltz", "K-s-s-", 0.23, {3, 4}, 130.4348},
                                           Played{"SixEight", "KhhShh", 0.2, {6, 8}, 100},
                                           Played{"SevenEight", "KhShKSh", 0.2, {7, 8}, 150},
                                           Played{"KickOffTheBeat", "KhSkhkSh", 0.27, {4, 4}, 111.1111}),
                         [](const auto& p) { return std::string(p.param.name); });

// What is played at the very first sample begins there, too.
struct Changed {
  std::string name;
  std::string steps;      ///< halves of beats
  std::vector<int> bars;  ///< the steps of each of its bars
  std::vector<MeterEvent> changes;
};
struct MeterChanges : ::testing::TestWithParam<Changed> {};

TEST_P(MeterChanges, BarsOfAnotherLengthAreHeardWhereTheyAre) {
  constexpr double kStep = 0.26;
  constexpr double kStart = 0.4;
  const auto& p = GetParam();
  Progress progress;
  const auto heard = hearTempo(test::played(p.steps, kStep, kStart), test::kPatternRate, {}, progress);
  ASSERT_TRUE(heard) << heard.error().message;
  EXPECT_EQ(heard->meter, (Meter{4, 4}));
  ASSERT_EQ(heard->changes, p.changes);
  ASSERT_EQ(heard->downbeats.size(), p.bars.size());
  double at = kStart;
  for (std::size_t b = 0; b < p.bars.size(); ++b) {
    EXPECT_NEAR(heard->downbeats[b], at, 0.01) << "bar " << b + 1;
    at += kStep * p.bars[b];
  }
}

std::vector<Changed> changedBars() {
  const std::string usual = "K-h-S-h-";
  const std::string other = "K-hkS-hh";
  const auto eights = [](int n) { return std::vector<int>(static_cast<std::size_t>(n), 8); };
  const auto joined = [](const std::vector<std::vector<int>>& parts) {
    std::vector<int> out;
    for (const auto& p : parts) out.insert(out.end(), p.begin(), p.end());
    return out;
  };
  const auto verse = test::repeated(usual + other, 6);
  return {
      {"None", test::repeated(usual + usual + usual + "K-hSStts", 6), eights(24), {}},
      {"ABarOfTwo", verse + "K-h-" + verse, joined({eights(12), {4}, eights(12)}), {{12, {2, 4}}, {13, {4, 4}}}},
      {"APartInThree",
       verse + test::repeated("K-h-S-", 10) + verse,
       joined({eights(12), std::vector<int>(10, 6), eights(12)}),
       {{12, {3, 4}}, {22, {4, 4}}}},
  };
}
INSTANTIATE_TEST_SUITE_P(Bars, MeterChanges, ::testing::ValuesIn(changedBars()),
                         [](const auto& p) { return p.param.name; });

TEST(Tempo, ALoopBeginsWithItsFirstBeat) {
  constexpr double kBeat = 60 / 97.3;
  const auto loop = kit(16, 16 * kBeat, [&](double b) { return b * kBeat; });
  Progress progress;
  const auto heard = hearTempo(loop, kTempoRate, {}, progress);
  ASSERT_TRUE(heard);
  ASSERT_FALSE(heard->downbeats.empty());
  EXPECT_NEAR(heard->beats.front(), 0, 0.01);
  EXPECT_NEAR(heard->downbeats.front(), 0, 0.01);
}

TEST(Tempo, EvenClicksHaveATempoButTheirBarsAreInDoubt) {
  std::vector<float> clicks(kTempoRate * 24, 0.0F);
  for (int b = 0; b < 44; ++b) strike(clicks, 0.7 + b * 0.5, 0, 0.4, 0.02);
  Progress progress;
  const auto heard = hearTempo(clicks, kTempoRate, {}, progress);
  ASSERT_TRUE(heard);
  EXPECT_NEAR(heard->bpm, 120, 0.02);
  EXPECT_LT(heard->barConfidence, 0.75);
  EXPECT_TRUE(heard->otherBar);
}

// Every quarter of it has the tempo of the whole.
TEST(Tempo, ATempoThatBreathesWithinEachPartIsNotCalledSteady) {
  std::vector<double> places{0.5};
  for (int b = 0; b < 130; ++b) {
    const double breath = 0.045 * std::sin(2 * M_PI * b / 24) + 0.018 * std::sin(2 * M_PI * b / 10.5 + 1);
    places.push_back(places.back() + 60 / (110 * (1 + breath)));
  }
  const auto at = [&](double b) {
    const auto i = static_cast<std::size_t>(b);
    return places[i] + (b - std::floor(b)) * (places[i + 1] - places[i]);
  };
  Progress progress;
  const auto heard = hearTempo(kit(96, places[97] + 0.5, at), kTempoRate, {}, progress);
  ASSERT_TRUE(heard);
  EXPECT_FALSE(heard->steady);
  int near = 0;
  for (const double b : heard->beats)
    near += std::any_of(places.begin(), places.end(), [&](double p) { return std::abs(p - b) < 0.025; }) ? 1 : 0;
  EXPECT_GT(near, 88);
}

TEST(Tempo, AWanderingTempoIsFollowedAndNotCalledSteady) {
  std::vector<double> places{0.5};
  for (int b = 0; b < 200; ++b) places.push_back(places.back() + 60 / (110 + 12 * std::sin(b / 14.0)));
  const auto at = [&](double b) {
    const auto i = static_cast<std::size_t>(b);
    return places[i] + (b - std::floor(b)) * (places[i + 1] - places[i]);
  };
  const auto sound = kit(160, places[161] + 0.5, at);
  Progress progress;
  const auto heard = hearTempo(sound, kTempoRate, {}, progress);
  ASSERT_TRUE(heard);
  EXPECT_FALSE(heard->steady);
  int near = 0;
  for (const double b : heard->beats)
    near += std::any_of(places.begin(), places.end(), [&](double p) { return std::abs(p - b) < 0.02; }) ? 1 : 0;
  EXPECT_GT(near, 150);
}

TEST(Tempo, ALoopOfAWholeNumberOfBeatsIsExactWithAndWithoutSilenceBeforeIt) {
  constexpr double kBpm = 97.3;
  const auto loop = kit(8, 8 * 60 / kBpm, [&](double b) { return b * 60 / kBpm; });
  EXPECT_NEAR(bpmOf(loop) / kBpm, 1, 1e-3);
  std::vector<float> three;
  for (int i = 0; i < 3; ++i) three.insert(three.end(), loop.begin(), loop.end());
  EXPECT_NEAR(bpmOf(three) / kBpm, 1, 1e-4);
  std::vector<float> late(kTempoRate, 0.0F);
  late.insert(late.end(), three.begin(), three.end());
  EXPECT_NEAR(bpmOf(late) / kBpm, 1, 1e-4);
}

TEST(Tempo, ToldTheNumberOfBeatsTheLengthDecides) {
  const auto loop = kit(8, 8 * 60 / 97.3, [&](double b) { return b * 60 / 97.3; });
  TempoSearch search;
  search.beats = 8;
  EXPECT_NEAR(bpmOf(loop, search), 97.3, 0.01);
}

TEST(Tempo, TheRangeIsKeptTo) {
  const auto sound = kit(48, 48 * 60 / 150.0 + 1, [](double b) { return 0.5 + b * 60 / 150.0; });
  TempoSearch slow;
  slow.slowest = 60;
  slow.fastest = 100;
  Progress progress;
  const auto heard = hearTempo(sound, kTempoRate, slow, progress);
  ASSERT_TRUE(heard);
  for (const auto& c : heard->candidates) {
    EXPECT_GE(c.bpm, 60 * 0.97);
    EXPECT_LE(c.bpm, 100 * 1.03);
  }
  double all = 0;
  for (const auto& c : heard->candidates) all += c.score;
  EXPECT_NEAR(all, 1, 1e-9);
}

TEST(Tempo, SilenceOneStrokeAndTooLittleAreSaidAndNeverMadeUp) {
  Progress progress;
  std::vector<float> silence(kTempoRate * 5, 0.0F);
  std::vector<float> one = silence;
  strike(one, 1, 60, 0.8, 0.1);
  const std::vector<float> little(kTempoRate / 4, 0.1F);
  for (const auto& sound : {silence, one, little}) {
    const auto heard = hearTempo(sound, kTempoRate, {}, progress);
    ASSERT_FALSE(heard);
    EXPECT_NE(heard.error().message.find("tempo"), std::string::npos) << heard.error().message;
  }
}

TEST(Tempo, ACancelIsObeyed) {
  const auto sound = kit(48, 26, [](double b) { return 0.5 + b * 0.5; });
  Progress progress;
  progress.cancel();
  const auto heard = hearTempo(sound, kTempoRate, {}, progress);
  ASSERT_FALSE(heard);
  EXPECT_EQ(heard.error().kind, ErrorKind::cancelled);
}

TEST(LoopLength, ARepeatedNoiseIsFoundToAFractionOfASample) {
  std::mt19937 dice(5);
  std::normal_distribution<float> noise(0, 0.1F);
  std::vector<float> pass(91'237);
  for (auto& s : pass) s = noise(dice);
  for (std::size_t i = 0; i < pass.size(); ++i)
    pass[i] *= static_cast<float>(1 + std::sin(static_cast<double>(i) / 5000));
  std::vector<float> twice = pass;
  twice.insert(twice.end(), pass.begin(), pass.end());
  const auto loop = loopOf(twice, kTempoRate, {});
  EXPECT_TRUE(loop.repeats);
  EXPECT_NEAR(loop.seconds * kTempoRate, 91'237, 0.6);
}

TEST(RefinedBeats, OneThatLiesOffItsPlaceStaysOnTheCurve) {
  OnsetCurves curves;
  curves.activation.assign(2400, 0.0F);
  std::vector<double> beats;
  for (int b = 0; b < 20; ++b) {
    const double at = 0.5 + b * 0.5 + (b == 10 ? 0.03 : 0);
    curves.activation[static_cast<std::size_t>(std::llround(at * OnsetCurves::kPerSecond))] = 1;
    beats.push_back(0.5 + b * 0.5 + 0.01);
  }
  const auto refined = refinedBeats(curves, beats);
  for (int b = 0; b < 20; ++b)
    EXPECT_NEAR(refined[static_cast<std::size_t>(b)], 0.5 + b * 0.5, b == 10 ? 0.012 : 0.006) << b;
}

}  // namespace
}  // namespace ochron

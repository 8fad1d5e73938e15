// What the mics of a kit tell each other, on takes where every stroke and every mic's share of it was laid by us.
#include "analysis/drums/between_mics.h"

#include <gtest/gtest.h>

#include <set>

#include "support/made_mic.h"

namespace ochron {
namespace {

using test::counting;
using test::kRate;

double gain(double db) { return std::pow(10.0, db / 20); }

/// Snare strokes between hard and soft, and toms of nearly the same sound in between, on the snare's mic and an
/// overhead 3 ms away.
struct SnareAndToms {
  SnareAndToms() : snare(24), overhead(24) {
    for (int i = 0; i < 44; ++i) {
      const std::int64_t at = 12'000 + i * 25'000;
      if (i % 2) {
        const double level = 0.8 * gain(-(i % 8) * 2.0);
        snare.hit(at, 190, 70, 0.6, level);
        overhead.hit(at + 144, 190, 70, 0.6, level * gain(-14));
        truth.emplace_back(at);
      } else {
        snare.hit(at + 96, 185, 80, 0.6, 0.5 * gain(-4));
        overhead.hit(at + 120, 185, 80, 0.6, 0.5);
      }
    }
  }
  std::size_t falseOnes(const std::vector<Onset>& hits) const {
    std::size_t n = 0;
    for (const auto& h : hits)
      n += std::none_of(truth.begin(), truth.end(), [&](Frames t) { return std::abs((t - h.at).value) < 240; }) ? 1 : 0;
    return n;
  }
  test::Take snare, overhead;
  std::vector<Frames> truth;
};

TEST(BetweenMics, BleedThatSoundsLikeTheSnareIsToldByItsBalance) {
  const SnareAndToms take;
  const auto alone = counting({{take.snare.samples, {}, MicHears::snare}});
  EXPECT_GT(take.falseOnes(alone), 15u) << "by its sound alone it can not be told";
  const auto hits =
      counting({{take.snare.samples, {}, MicHears::snare}, {take.overhead.samples, {}, MicHears::everything, false}});
  EXPECT_EQ(take.falseOnes(hits), 0u);
  EXPECT_EQ(hits.size(), take.truth.size()) << "hard and soft strokes have one balance";
}

TEST(BetweenMics, AMicThatIsNoGuideMakesNoHits) {
  test::Take kick(20), overhead(20);
  for (int i = 0; i < 16; ++i) {
    kick.kick(24'000 + i * 48'000);
    overhead.kick(24'100 + i * 48'000, 0.2);
    overhead.hit(48'000 + i * 48'000, 6000, 200, 0.9, 0.6);
  }
  const auto hits = counting({{kick.samples, {}, MicHears::kick}, {overhead.samples, {}, MicHears::everything, false}});
  EXPECT_EQ(hits.size(), 16u);
  for (const auto& h : hits) {
    EXPECT_EQ(h.drum, DrumClass::kick);
    for (const auto& g : h.guides) EXPECT_EQ(g.guide, 0);
  }
}

/// A hat on every eighth, a kick and a snare with some of them, a crash with one kick; each drum with its own levels in
/// four mics.
struct Beat {
  Beat() : kick(30), snare(30), hat(30), overhead(30) {
    for (int i = 0; i < 96; ++i) {
      const std::int64_t at = 12'000 + i * 14'000;
      if (i % 8 != 7) lay(at, 9000, 40, 0.97, 0.35, {-34, -30, 0, -10});
      if (i % 4 == 0) lay(at + 192, 55, 120, 0.25, 0.9, {0, -26, -36, -14}), kicks.emplace_back(at + 192);
      if (i % 4 == 2) lay(at - 96, 190, 70, 0.7, 0.8, {-26, 0, -24, -10});
      if (i == 48) lay(at + 100, 3500, 900, 0.9, 1.2, {-40, -30, -20, -2}), crash = Frames{at + 192};
    }
  }
  void lay(std::int64_t at, double hz, double ms, double noise, double level, std::array<double, 4> db) {
    test::Take* mics[] = {&kick, &snare, &hat, &overhead};
    for (std::size_t m = 0; m < 4; ++m)
      mics[m]->hit(at + static_cast<std::int64_t>(m == 3      ? 140
                                                  : db[m] < 0 ? 60
                                                              : 0),
                   hz, ms, noise, level * gain(db[m]));
  }
  std::vector<Onset> hits() const {
    return counting({{kick.samples, {}, MicHears::kick},
                     {snare.samples, {}, MicHears::snare},
                     {hat.samples, {}, MicHears::hat},
                     {overhead.samples, {}, MicHears::everything}});
  }
  test::Take kick, snare, hat, overhead;
  std::vector<Frames> kicks;
  Frames crash;
};

std::set<DrumClass> drumsOf(const Onset& o) {
  std::set<DrumClass> out;
  for (const auto& s : o.strokes) out.insert(s.drum);
  return out;
}

TEST(BetweenMics, AHatStruckWithKickOrSnareIsAStrokeOfItsOwn) {
  const Beat beat;
  const auto hits = beat.hits();
  EXPECT_EQ(hits.size(), 84u);
  std::size_t both = 0, kicks = 0;
  for (const auto& h : hits) {
    const auto drums = drumsOf(h);
    if (!drums.contains(DrumClass::kick) || drums.contains(DrumClass::cymbal)) continue;
    ++kicks;
    both += drums.contains(DrumClass::hat) ? 1 : 0;
    for (const auto& s : h.strokes)
      if (s.drum == DrumClass::hat) EXPECT_NEAR(static_cast<double>((h.at - s.at).value), 192, 60);
  }
  EXPECT_EQ(kicks, beat.kicks.size() - 1);
  EXPECT_EQ(both, kicks);
}

TEST(BetweenMics, WhatIsNeitherKickNorSnareIsTheHatAndNothingElse) {
  for (const auto& h : Beat().hits()) {
    const auto drums = drumsOf(h);
    EXPECT_FALSE(drums.contains(DrumClass::tom) || drums.contains(DrumClass::other)) << h.at.value;
  }
}

TEST(BetweenMics, ACrashOverAKickIsHeardInTheOverheadAndNoOtherKickHasOne) {
  const Beat beat;
  for (const auto& h : beat.hits())
    EXPECT_EQ(drumsOf(h).contains(DrumClass::cymbal), std::abs((h.at - beat.crash).value) < 480) << h.at.value;
}

/// Kicks with and without a tom, which has no mic of its own; `early`: how long before the kick it is struck.
class TomOverKick : public ::testing::TestWithParam<int> {};

TEST_P(TomOverKick, IsHeardInTheOverheadAndNoOtherKickHasOne) {
  test::Take kick(30), snare(30), overhead(30);
  std::set<std::int64_t> both;
  for (int i = 0; i < 48; ++i) {
    const std::int64_t at = 12'000 + i * 28'000;
    if (i % 2) {
      snare.snare(at);
      kick.hit(at + 60, 190, 70, 0.7, 0.8 * gain(-26));
      overhead.hit(at + 150, 190, 70, 0.7, 0.8 * gain(-10));
      continue;
    }
    kick.hit(at, 55, 120, 0.02, 0.8);
    snare.hit(at + 60, 55, 120, 0.02, 0.8 * gain(-26));
    overhead.hit(at + 150, 55, 120, 0.02, 0.8 * gain(-14));
    if (i % 8 != 4) continue;
    both.insert(at);
    kick.hit(at - GetParam() + 60, 130, 500, 0.1, 0.8 * gain(-26));
    snare.hit(at - GetParam() + 60, 130, 500, 0.1, 0.8 * gain(-24));
    overhead.hit(at - GetParam() + 100, 130, 500, 0.1, 0.8 * gain(-10));
  }
  const auto hits = counting({{kick.samples, {}, MicHears::kick},
                              {snare.samples, {}, MicHears::snare},
                              {overhead.samples, {}, MicHears::everything}});
  EXPECT_EQ(hits.size(), 48u);
  for (const auto& h : hits) {
    const auto drums = drumsOf(h);
    const bool struck = std::any_of(both.begin(), both.end(), [&](auto at) { return std::abs(at - h.at.value) < 720; });
    EXPECT_EQ(drums.contains(DrumClass::tom), struck) << h.at.value;
    EXPECT_FALSE(drums.contains(DrumClass::cymbal)) << h.at.value;
  }
}

INSTANTIATE_TEST_SUITE_P(Frames, TomOverKick, ::testing::Values(0, 240, 480));

TEST(BetweenMics, ABassBesideAKickStaysNoDrum) {
  test::Take kick(20);
  std::vector<float> bass(kick.samples.size());
  for (int i = 0; i < 16; ++i) {
    const std::int64_t at = 24'000 + i * 52'000;
    kick.kick(at);
    const double hz = 55 * std::exp2((i * 5 % 12) / 12.0);
    for (std::int64_t k = 0; k < 50'000; ++k) {
      const double t = static_cast<double>(k) / kRate;
      const double rise = std::min(1.0, t / 0.004);
      double v = 0;
      for (int h = 1; h <= 8; ++h) v += std::sin(2 * M_PI * hz * h * t) / h;
      bass[static_cast<std::size_t>(at + k)] = static_cast<float>(0.2 * rise * v);
    }
  }
  const auto hits = counting({{kick.samples, {}, MicHears::kick, false}, {bass, {}}});
  ASSERT_GT(hits.size(), 12u);
  for (const auto& h : hits) EXPECT_EQ(h.drum, DrumClass::other);
}

TEST(BetweenMics, SilentMicsAndEmptySetsAreNoTrouble) {
  Progress progress;
  EXPECT_TRUE(detectOnsets({}, kRate, progress)->empty());
  const std::vector<float> silence(kRate);
  test::Take kick(4);
  kick.kick(24'000), kick.kick(72'000);
  const auto hits = counting({{kick.samples, {}, MicHears::kick},
                              {silence, {}, MicHears::snare},
                              {silence, {}, MicHears::everything, false},
                              {{}, {}, MicHears::hat, false}});
  EXPECT_EQ(hits.size(), 2u);
}

TEST(BetweenMics, ACancelIsSeenByEveryMic) {
  const Beat beat;
  Progress progress;
  progress.cancel();
  const auto none =
      detectOnsets({{beat.kick.samples, {}, MicHears::kick}, {beat.hat.samples, {}, MicHears::hat}}, kRate, progress);
  ASSERT_FALSE(none);
  EXPECT_EQ(none.error().kind, ErrorKind::cancelled);
}

TEST(AddedPower, IsWhatAnAttackBringsAndNothingWhereItFalls) {
  std::vector<float> tone(kRate);
  for (std::size_t i = 24'000; i < 36'000; ++i)
    tone[i] = static_cast<float>(0.5 * std::sin(2 * M_PI * 950 * static_cast<double>(i) / kRate));
  Progress progress;
  const BandEnergy energy(tone, kRate, progress, 0, 1);
  const AddedPower added(energy, kRate, Frames{1000});
  EXPECT_NEAR(added.at(Frames{25'000})[3], 0.1, 0.03) << "mean square of a sine of 0.5, in its band";
  EXPECT_LT(added.at(Frames{25'000})[0], 1e-4);
  EXPECT_EQ(added.at(Frames{37'000})[3], 0);
  EXPECT_EQ(added.at(Frames{-50'000})[3], 0);
  EXPECT_EQ(added.at(Frames{500'000})[3], 0);
}

}  // namespace
}  // namespace ochron

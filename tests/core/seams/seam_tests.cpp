#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "checks/checks.h"
#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/pieces.h"
#include "edits/plan_edits.h"
#include "seams/apply_plan.h"
#include "seams/hidden_attacks.h"
#include "seams/seam_solver.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::Style styleFor(double bpm, std::uint64_t seed) {
  test::Style s;
  s.bpm = bpm, s.seed = seed, s.bars = 12;
  return s;
}

test::MadeSong quantized(const test::Style& style, const TimingSettings& settings = {}) {
  auto m = test::songOf(test::perform(style));
  TimingPlan plan;
  plan.settings = settings;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  return m;
}

class Quantized : public ::testing::TestWithParam<test::Style> {};

TEST_P(Quantized, EveryAttackNullsAgainstItsSourceInEveryMic) {
  const auto m = quantized(GetParam());
  const auto timing = planTiming(m.song, m.set);
  const auto& mics = m.song.find(m.take)->mics;
  int compared = 0;
  for (std::size_t mic = 0; mic < mics.size(); ++mic) {
    const auto out = test::rendered(m, mic, {Frames{0}, m.song.end()});
    const auto source = m.pool.at(mics[mic].media)->channel(0).floats();
    for (std::size_t i = 0; i < timing.hits.size(); ++i) {
      const auto& h = timing.hits[i];
      // Up to 20 ms, or until the next hit's own seam begins.
      std::int64_t length = 960;
      if (i + 1 < timing.hits.size()) length = std::min(length, (timing.hits[i + 1].hit.at - h.hit.at).value - 1300);
      for (std::int64_t k = 0; k < length; ++k)
        ASSERT_EQ(out[static_cast<std::size_t>(h.to().value + k)], source[static_cast<std::size_t>(h.hit.at.value + k)])
            << "hit " << i << " mic " << mic << " frame " << k;
      compared += length > 0 ? 1 : 0;
    }
  }
  EXPECT_GT(compared, 100);
}

TEST_P(Quantized, SeamsAreNoRougherThanTheMaterial) {
  const auto m = quantized(GetParam());
  const auto& mics = m.song.find(m.take)->mics;
  for (std::size_t mic = 0; mic < mics.size(); ++mic) {
    const auto source = m.pool.at(mics[mic].media)->channel(0).floats();
    std::vector<float> slopes;
    for (std::size_t i = 1; i < source.size(); ++i) slopes.push_back(std::abs(source[i] - source[i - 1]));
    std::nth_element(slopes.begin(), slopes.begin() + static_cast<std::ptrdiff_t>(slopes.size() * 999 / 1000),
                     slopes.end());
    const float limit = slopes[slopes.size() * 999 / 1000];
    const auto out = test::rendered(m, mic, {Frames{0}, m.song.end()});
    for (const auto& c : *m.song.find(m.set)->clips)
      for (auto f = (c.start - c.seam.before).value; f < (c.start + c.seam.after).value; ++f)
        if (f > 0)
          ASSERT_LE(std::abs(out[static_cast<std::size_t>(f)] - out[static_cast<std::size_t>(f - 1)]), limit)
              << "frame " << f << " mic " << mic;
  }
}

TEST_P(Quantized, PiecesCoverAllMaterialAndTurningThePlanOffBringsBackTheOriginal) {
  const auto m = quantized(GetParam());
  const auto plain = test::songOf(test::perform(GetParam()));
  EXPECT_GT(m.song.find(m.set)->clips->size(), 20u);
  const auto back = withoutPlan(*m.song.find(m.set)->clips);
  ASSERT_EQ(back.size(), 1u);
  EXPECT_EQ(back.front(), plain.song.find(plain.set)->clips->front());
  for (std::size_t i = 1; i < m.song.find(m.set)->clips->size(); ++i) {
    const auto& clips = *m.song.find(m.set)->clips;
    EXPECT_EQ(clips[i].piece->covers.start, clips[i - 1].piece->covers.end);
  }
}
INSTANTIATE_TEST_SUITE_P(Styles, Quantized, ::testing::Values(styleFor(120, 1), styleFor(74, 2), styleFor(168, 3)));

/// Every hit has a hat 16 ms before its leading stroke and one 18 ms after it.
class HitsOfSeveralStrokes : public ::testing::TestWithParam<TimingMethod> {};

TEST_P(HitsOfSeveralStrokes, TravelWholeWithTheirDistancesKept) {
  auto m = test::songOf(test::perform(styleFor(110, 7)));
  HitList hits = *m.song.hitsOf(m.take, m.set);
  for (auto& h : hits)
    h.strokes = {{h.at, h.drum, h.strength},
                 {h.at - Frames{768}, DrumClass::hat, 0.3},
                 {h.at + Frames{864}, DrumClass::cymbal, 0.3}};
  m.song = *setDetectedHits(m.song, m.take, m.set, hits);
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.method = GetParam();
  plan.settings.gestureMs = 0;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  const auto at = [&](Frames take) {  // song time at which a place of the take is heard
    for (const auto& c : *m.song.find(m.set)->clips)
      if (c.played().contains(take)) return c.toSong(take);
    ADD_FAILURE() << "nowhere: " << take.value;
    return Frames{};
  };
  int moved = 0;
  for (const auto& h : planTiming(m.song, m.set).hits) {
    if (!h.opensSlice || h.move == Frames{}) continue;
    ++moved;
    ASSERT_EQ(at(h.hit.at), h.to());
    ASSERT_EQ(at(h.hit.at - Frames{768}), h.to() - Frames{768});
    ASSERT_EQ(at(h.hit.at + Frames{864}), h.to() + Frames{864});
  }
  EXPECT_GT(moved, 40);
}
INSTANTIATE_TEST_SUITE_P(Methods, HitsOfSeveralStrokes, ::testing::Values(TimingMethod::slices, TimingMethod::stretch));

TEST(HiddenAttacks, AreFoundInTheMicThatHearsThem) {
  std::vector<float> quiet(48'000), hat(48'000);
  std::mt19937 dice(5);
  std::normal_distribution<float> hiss(0, 0.001F), burst(0, 0.2F);
  for (auto& s : quiet) s = hiss(dice);
  for (auto& s : hat) s = hiss(dice);
  for (int i = 0; i < 480; ++i) hat[static_cast<std::size_t>(24'000 + i)] += burst(dice);
  const auto m = test::songOf(*TempoMap::steady(48'000, 120), {quiet, hat}, {});
  const auto mics = micsOf(m.song, *m.song.find(m.set), m.take, m.pool);
  const auto found = attacksHeard(Frames{19'200}, Frames{28'800}, 48'000, {Frames{19'000}, Frames{29'000}, mics});
  ASSERT_EQ(found.size(), 1u);
  EXPECT_NEAR(static_cast<double>(found.front().value), 24'000, 144);
  EXPECT_TRUE(attacksHeard(Frames{24'960}, Frames{28'800}, 48'000, {Frames{24'960}, Frames{25'000}, mics}).empty())
      << "its decay is no attack";
}

TEST(EnergySums, AreWhatEachMicSaysForAnyStretch) {
  std::vector<float> a(48'000), b(30'000);
  std::mt19937 dice(9);
  std::normal_distribution<float> noise(0, 0.1F);
  for (auto& s : a) s = noise(dice);
  for (auto& s : b) s = noise(dice);
  const auto m = test::songOf(*TempoMap::steady(48'000, 120), {a, b}, {});
  const auto mics = micsOf(m.song, *m.song.find(m.set), m.take, m.pool);
  const EnergySums sums(Frames{26'000}, Frames{34'000}, mics);
  std::uniform_int_distribution<std::int64_t> at(20'000, 50'000), length(1, 4'000);
  for (int i = 0; i < 2'000; ++i) {
    const Frames from{at(dice)}, to = from + Frames{length(dice)};
    for (std::size_t k = 0; k < mics.size(); ++k) ASSERT_EQ(sums.energy(k, from, to), mics[k].energy(from, to));
  }
}

// Only the snare was asked about; a hat just before it lies where pieces that move together are cut and pieces that
// move apart are played twice.
TEST(HiddenAttacks, AreNeitherCutNorDoubledByASeam) {
  constexpr std::int64_t kBeat = 24'000;  // at 120
  std::vector<float> snare(static_cast<std::size_t>(40 * kBeat)), hat(snare.size());
  std::mt19937 dice(11);
  std::normal_distribution<float> hiss(0, 0.0005F), burst(0, 0.25F);
  for (auto& s : snare) s = hiss(dice);
  for (auto& s : hat) s = hiss(dice);
  std::vector<Hit> hits;
  std::vector<std::int64_t> hats;
  const auto strike = [&](std::vector<float>& mic, std::int64_t at, double ms) {
    for (std::int64_t i = 0; i < 21'600; ++i)
      mic[static_cast<std::size_t>(at + i)] +=
          static_cast<float>(std::exp(-static_cast<double>(i) / (ms * 48)) * burst(dice));
  };
  for (int i = 1; i < 38; ++i) {
    const std::int64_t at = i * kBeat + (i % 2 ? 480 : -480);  // 10 ms late and early in turn
    strike(snare, at, 90);  // it decays until the next one: just before that it is quietest
    Hit h;
    h.at = Frames{at};
    h.drum = DrumClass::snare;
    h.strength = 1;
    hits.push_back(h);
    hats.push_back(at - (10 + i % 9) * 48);
    strike(hat, hats.back(), 1.5);
  }
  auto m = test::songOf(*TempoMap::steady(48'000, 120), {snare, hat}, hits);
  TimingPlan plan;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  const auto& clips = *m.song.find(m.set)->clips;
  ASSERT_GT(clips.size(), 30u);
  for (const auto at : hats)
    for (const std::int64_t of : {std::int64_t{0}, std::int64_t{144}, std::int64_t{288}})
      EXPECT_EQ(
          std::count_if(clips.begin(), clips.end(), [&](auto& c) { return c.played().contains(Frames{at + of}); }), 1)
          << at << " + " << of;
}

TEST(ApplyPlan, IsTheSameWhateverItWasBefore) {
  auto settings = TimingSettings{};
  const auto once = quantized(styleFor(120, 1), settings);
  auto other = quantized(styleFor(120, 1), [] {
    TimingSettings s;
    s.strength = 40;
    s.grid.denominator = 8;
    return s;
  }());
  TimingPlan plan;
  plan.settings = settings;
  plan.settings.on = true;
  other.song = *applyTimingPlan(*setTimingPlan(other.song, other.set, plan), other.set, other.pool);
  const auto& a = *once.song.find(once.set)->clips;
  const auto& b = *other.song.find(other.set)->clips;
  ASSERT_EQ(a.size(), b.size());
  for (std::size_t i = 0; i < a.size(); ++i) {
    EXPECT_EQ(a[i].start, b[i].start);
    EXPECT_EQ(a[i].source, b[i].source);
    EXPECT_EQ(a[i].length, b[i].length);
  }
}

TEST(ApplyPlan, NothingIsCutWhenNothingMoves) {
  TimingSettings s;
  s.keepDrift = s.keepPocket = s.keepScatter = 100;
  EXPECT_EQ(quantized(styleFor(120, 1), s).song.sets[0].clips->size(), 1u);
}

TEST(ApplyPlan, AClipMovedByHandStaysOutOfThePlan) {
  auto m = quantized(styleFor(120, 1));
  const auto clip = (*m.song.find(m.set)->clips)[10];
  m.song = *moveClips(m.song, {clip.id}, Frames{300});
  TimingPlan plan = *m.song.find(m.set)->plan;
  plan.settings.strength = 50;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  const auto& clips = *m.song.find(m.set)->clips;
  const auto found = std::find_if(clips.begin(), clips.end(), [&](auto& c) { return c.id == clip.id; });
  ASSERT_NE(found, clips.end());
  EXPECT_EQ(found->start, clip.start + Frames{300});
  EXPECT_TRUE(brokenRules(m.song).empty());
}

TEST(Solver, GapLongerThanTheSustainFadesInsteadOfDoublingAnAttack) {
  const JointProblem p{Frames{0}, Frames{1000}, Frames{0}, Frames{950}, Frames{-48'000}};
  const auto j = solveJoint(p, {}, {});
  EXPECT_EQ(j.fill, SeamFill::faded);
  EXPECT_LE(j.earlierEnd, Frames{1000});     // before the next attack shows in the earlier piece
  EXPECT_GT(j.at - Frames{950}, Frames{0});  // after the earlier attack in the later piece
}

TEST(Solver, JointsStayBetweenTheAttacks) {
  for (const int shift : {-900, -200, 0, 200, 900, 2000}) {
    const JointProblem p{Frames{0}, Frames{6000}, Frames{0}, Frames{shift}, Frames{-48'000}};
    const auto j = solveJoint(p, {}, {});
    EXPECT_GE(j.at - j.crossfade / 2, Frames{std::max(0, shift) + 960});
    EXPECT_LE(j.at + j.crossfade / 2, Frames{6000 + std::min(0, shift) - 20});
    EXPECT_EQ(j.fill, shift > 0 ? SeamFill::continuation : shift < 0 ? SeamFill::shortened : SeamFill::none);
  }
}

TEST(Checks, ListFadedGapsAndFarMovesRiskiestFirst) {
  auto settings = TimingSettings{};
  settings.grid.denominator = 4;
  const auto m = quantized(styleFor(120, 1), settings);
  const auto checks = checksOf(m.song, m.set, planTiming(m.song, m.set));
  ASSERT_FALSE(checks.empty());
  EXPECT_TRUE(std::is_sorted(checks.begin(), checks.end(), [](auto& a, auto& b) { return a.risk > b.risk; }));
}

TEST(Checks, OfAPlanThatIsOffNothingThatItWouldDoIsListed) {
  auto settings = TimingSettings{};
  settings.grid.denominator = 4;
  auto m = quantized(styleFor(120, 1), settings);
  const auto moves = [&] {
    const auto checks = checksOf(m.song, m.set, planTiming(m.song, m.set));
    return std::count_if(checks.begin(), checks.end(), [](const Check& c) {
      return c.kind == CheckKind::farMove || c.kind == CheckKind::twoHitsOnePlace;
    });
  };
  EXPECT_GT(moves(), 0);
  TimingPlan off = *m.song.find(m.set)->plan;
  off.settings.on = false;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, off), m.set, m.pool);
  EXPECT_EQ(moves(), 0);
}

}  // namespace
}  // namespace ochron

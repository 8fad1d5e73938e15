#include <gtest/gtest.h>

#include <set>

#include <algorithm>
#include <cmath>

#include "checks/checks.h"
#include "edits/clip_edits.h"
#include "edits/pieces.h"
#include "edits/plan_edits.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "seams/apply_plan.h"
#include "seams/measure.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::MadeSong planned(std::uint64_t seed = 1, const TimingSettings& settings = {}) {
  test::Style style;
  style.bars = 10;
  style.seed = seed;
  auto m = test::songOf(test::perform(style));
  TimingPlan plan;
  plan.settings = settings;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  return m;
}

const Clip& pieceOf(const Song& song, SetId set, HitId hit) {
  const auto& clips = *song.find(set)->clips;
  return *std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.piece && c.piece->hit == hit; });
}

Song decided(const test::MadeSong& m, const Song& song, HitId hit, const SeamOverride& seam) {
  TimingPlan plan = *song.find(m.set)->plan;
  plan.overrides[hit].seam = seam;
  return *applyTimingPlan(*setTimingPlan(song, m.set, plan), m.set, m.pool);
}

/// A hit in the middle that a piece begins with, and the one before.
std::pair<PlannedHit, PlannedHit> middleHit(const test::MadeSong& m) {
  const auto timing = planTiming(m.song, m.set);
  const auto& clips = *m.song.find(m.set)->clips;
  const auto hit = clips[clips.size() / 2].piece->hit;
  for (std::size_t i = 1; i < timing.hits.size(); ++i)
    if (timing.hits[i].hit.id == hit) return {timing.hits[i - 1], timing.hits[i]};
  return {};
}

TEST(SeamChoice, AMovedSeamStaysAtItsLeadInWhenThePlanChanges) {
  const auto m = planned();
  const auto [before, hit] = middleHit(m);
  auto song = decided(m, m.song, hit.hit.id, {Frames{1200}});
  const auto leadIn = [&m, &h = hit](const Song& s) {
    const auto& p = pieceOf(s, m.set, h.hit.id);
    return h.hit.at - p.source;
  };
  EXPECT_EQ(leadIn(song), Frames{1200});
  TimingPlan plan = *song.find(m.set)->plan;
  plan.settings.strength = 70;
  plan.settings.leadInMs = 9;
  song = *applyTimingPlan(*setTimingPlan(song, m.set, plan), m.set, m.pool);
  EXPECT_EQ(leadIn(song), Frames{1200});
}

TEST(SeamChoice, HoweverFarASeamIsDraggedNoAttackIsDoubledOrCut) {
  const auto m = planned();
  const auto [before, hit] = middleHit(m);
  for (const std::int64_t leadIn : {0, 1, 10, 500, 3000, 9000, 40'000}) {
    for (const std::int64_t length : {0, 24, 480, 1440}) {
      const auto song = decided(m, m.song, hit.hit.id, {Frames{leadIn}, Frames{length}});
      const auto timing = planTiming(song, m.set);
      const auto& piece = pieceOf(song, m.set, hit.hit.id);
      // The later piece never shows the earlier attack, and its own attack is whole.
      EXPECT_GT((piece.source - piece.seam.before).value, before.hit.at.value) << leadIn << " " << length;
      EXPECT_LE((piece.start + piece.seam.after).value, hit.to().value) << leadIn << " " << length;
      EXPECT_TRUE(brokenRules(song).empty());
    }
  }
}

TEST(SeamChoice, LawShapeBiasAndLengthAreTakenForOneSeamOnly) {
  const auto m = planned();
  const auto [before, hit] = middleHit(m);
  const auto song =
      decided(m, m.song, hit.hit.id, {{}, Frames{120}, CrossfadeLaw::equalPower, FadeShape::sCurve, 40.0});
  const auto& piece = pieceOf(song, m.set, hit.hit.id);
  EXPECT_EQ(piece.seam.law, CrossfadeLaw::equalPower);
  EXPECT_EQ(piece.seam.shape, FadeShape::sCurve);
  EXPECT_DOUBLE_EQ(piece.seam.bias, 0.4);
  EXPECT_EQ(piece.seam.before + piece.seam.after, Frames{120});
  int others = 0;
  for (const auto& c : *song.find(m.set)->clips)
    if (c.piece && c.piece->hit && c.piece->hit != hit.hit.id) others += c.seam.law == CrossfadeLaw::matched ? 1 : 0;
  EXPECT_GT(others, 10);
}

/// Two tones struck one second apart; the second is to come `moveMs` later.
struct TwoTones {
  test::MadeSong m;
  HitId second;
  Frames at{48'000};

  explicit TwoTones(double moveMs, SeamOverride seam = {}) {
    std::vector<float> mic(48'000 * 3, 0.0f);
    for (const std::int64_t start : {4800ll, 48'000ll})
      for (std::int64_t i = start; i < std::ssize(mic); ++i) {
        const double t = static_cast<double>(i - start) / 48'000;
        mic[static_cast<std::size_t>(i)] +=
            static_cast<float>(0.4 * std::exp(-1.2 * t) * std::sin(2 * 3.14159265 * 220 * t));
      }
    std::vector<Hit> hits(2);
    hits[0].at = Frames{4800}, hits[1].at = at;
    for (auto& h : hits) h.strength = h.confidence = 1;
    m = test::songOf(*TempoMap::steady(48'000, 120), {mic, mic}, hits);
    const auto list = *m.song.hitsOf(m.take, m.set);
    second = list[1].id;
    TimingPlan plan;
    plan.settings.on = true;
    plan.overrides[list[0].id].frozen = true;
    plan.overrides[second].target = m.song.tempo.toTicks(at + Frames{static_cast<std::int64_t>(moveMs * 48)});
    plan.overrides[second].seam = seam;
    m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  }
};

std::vector<float> renderedWithStretch(const test::MadeSong& m, std::size_t mic) {
  Progress progress;
  MadeStore made;
  EXPECT_TRUE(makeMissing(m.song, m.pool, made, Frames{}, progress));
  const auto plan = compilePlan(m.song, m.pool, nullptr, &made);
  std::vector<float> out(static_cast<std::size_t>(m.song.end().value), 0.0f);
  addSegments(*plan.tracks[mic].channels[0], Frames{0}, out);
  return out;
}

TEST(SeamFill, AskedForAStretchTheSustainGoesOnWithoutAHoleAndTheNextAttackIsUntouched) {
  const TwoTones t(80, {{}, {}, {}, {}, {}, SeamFill::stretched});
  const auto& piece = pieceOf(t.m.song, t.m.set, t.second);
  EXPECT_EQ(piece.seam.fill, SeamFill::stretched);
  const auto& before = t.m.song.find(t.m.set)->clips->front();
  ASSERT_EQ(before.map.pins().size(), 3u);
  EXPECT_EQ(before.end(), piece.start);
  const auto out = renderedWithStretch(t.m, 0);
  const auto source = t.m.pool.begin()->second->channel(0).floats();
  const auto attack = t.at + Frames{80 * 48};
  for (std::int64_t i = 0; i < 960; ++i)
    ASSERT_EQ(out[static_cast<std::size_t>(attack.value + i)], source[static_cast<std::size_t>(t.at.value + i)]) << i;
  // No hole: every 10 ms of the stretched sustain is as loud as the decaying tone there, within 3 dB.
  for (std::int64_t at = 12'000; at + 480 < piece.start.value; at += 480) {
    double sum = 0;
    for (std::int64_t i = 0; i < 480; ++i)
      sum += static_cast<double>(out[static_cast<std::size_t>(at + i)]) * out[static_cast<std::size_t>(at + i)];
    const double level = 0.4 / std::sqrt(2) * std::exp(-1.2 * static_cast<double>(at - 4800) / 48'000);
    EXPECT_NEAR(20 * std::log10(std::sqrt(sum / 480) / level), 0, 3) << "frame " << at;
  }
  // And both mics come out alike, as they were recorded alike.
  EXPECT_EQ(out, renderedWithStretch(t.m, 1));
}

TEST(SeamFill, TheUsersFadeIsAFade) {
  const TwoTones t(80, {{}, {}, {}, {}, {}, SeamFill::faded});
  const auto& piece = pieceOf(t.m.song, t.m.set, t.second);
  EXPECT_EQ(piece.seam.fill, SeamFill::faded);
  EXPECT_GT(piece.fadeIn.length.value, 0);
  const auto out = renderedWithStretch(t.m, 0);
  const auto middle = (t.at + Frames{20 * 48}).value;  // in the gap, before the later piece's lead-in
  EXPECT_EQ(out[static_cast<std::size_t>(middle)], 0.0f);
}

TEST(SeamFill, PinnedPiecesAreTakenTogetherAgainWithoutThePlan) {
  const TwoTones t(80, {{}, {}, {}, {}, {}, SeamFill::stretched});
  const auto plain = withoutPlan(*t.m.song.find(t.m.set)->clips);
  ASSERT_EQ(plain.size(), 1u);
  EXPECT_TRUE(plain.front().map.identity());
  EXPECT_TRUE(brokenRules(t.m.song).empty());
}

class SeamLevels : public ::testing::TestWithParam<std::uint64_t> {};

TEST_P(SeamLevels, EverySeamThatFailsABarIsListedAndTheOthersHoldIt) {
  const auto m = planned(GetParam());
  Progress progress;
  const auto measured = measureSeams(m.song, m.set, m.pool, progress);
  ASSERT_TRUE(measured.has_value());
  ASSERT_GT(measured->size(), 20u);
  const auto checks = checksOf(m.song, m.set, planTiming(m.song, m.set), *measured);
  std::size_t failing = 0;
  for (const auto& [clip, seam] : *measured) {
    if (std::abs(seam.levelDb) <= kSeamLevelBarDb && seam.steepness <= kSeamSteepnessBar) continue;
    ++failing;
    const auto& clips = *m.song.find(m.set)->clips;
    const auto piece = std::find_if(clips.begin(), clips.end(), [id = clip](const Clip& c) { return c.id == id; });
    EXPECT_TRUE(std::any_of(checks.begin(), checks.end(), [&](const Check& c) {
      return c.hit == piece->piece->hit && (c.kind == CheckKind::levelChange || c.kind == CheckKind::roughSeam);
    }));
  }
  EXPECT_LE(failing * 50, measured->size()) << failing << " of " << measured->size();
}
INSTANTIATE_TEST_SUITE_P(Seeds, SeamLevels, ::testing::Values(1, 2, 3, 4));

TEST(SeamMeasure, ABadCrossfadeIsFoundBad) {
  // Equal gain on two unrelated sounds dips by 3 dB in the middle; a hard cut through a tone steps.
  std::vector<float> noise(48'000);
  std::uint32_t state = 1;
  for (auto& s : noise)
    state = state * 1664525u + 1013904223u, s = static_cast<float>(static_cast<std::int32_t>(state)) / 8e9f;
  auto m = test::songOf(*TempoMap::steady(48'000, 120), {noise}, {});
  auto song = *splitAt(m.song, m.set, {Frames{24'000}}, Frames{960});
  ClipList clips = *song.sets.front().clips;
  clips[1].source += Frames{3000};
  clips[1].length -= Frames{3000};
  song.sets.front().clips = clips;
  Progress progress;
  auto measured = *measureSeams(song, m.set, m.pool, progress);
  ASSERT_EQ(measured.size(), 1u);
  EXPECT_LT(measured.begin()->second.levelDb, -1.0);
  EXPECT_EQ(measured.begin()->second.worst, song.tracks.front().id);
  clips[1].seam.law = CrossfadeLaw::equalPower;
  song.sets.front().clips = clips;
  measured = *measureSeams(song, m.set, m.pool, progress);
  EXPECT_NEAR(measured.begin()->second.levelDb, 0, 0.5);
}

TEST(Checks, AnAcceptedCheckIsNotListedAgain) {
  auto m = planned();
  TimingPlan plan = *m.song.find(m.set)->plan;
  plan.settings.crossfadeMs = 0.5;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  const auto before = checksOf(m.song, m.set, planTiming(m.song, m.set));
  ASSERT_FALSE(before.empty());
  plan.accepted.emplace(before.front().hit, before.front().kind);
  m.song = *setTimingPlan(m.song, m.set, plan);
  const auto after = checksOf(m.song, m.set, planTiming(m.song, m.set));
  EXPECT_EQ(after.size() + 1, before.size());
}

TEST(Checks, StretchingBeyondTheLimitIsListed) {
  TwoTones t(80);
  TimingPlan plan = *t.m.song.find(t.m.set)->plan;
  plan.settings.method = TimingMethod::stretch;
  plan.settings.stretchLimit = 5;
  t.m.song = *applyTimingPlan(*setTimingPlan(t.m.song, t.m.set, plan), t.m.set, t.m.pool);
  const auto has = [&](double limit) {
    plan.settings.stretchLimit = limit;
    const auto song = *setTimingPlan(t.m.song, t.m.set, plan);
    const auto list = checksOf(song, t.m.set, planTiming(song, t.m.set));
    return std::any_of(list.begin(), list.end(), [](auto& c) { return c.kind == CheckKind::tooMuchStretch; });
  };
  EXPECT_TRUE(has(5));
  EXPECT_FALSE(has(20));
}

TEST(Checks, OfTheWholeSongAreOneEntryForEachPlaceTheRiskiestFirst) {
  const TwoTones t(80, {{}, {}, {}, {}, {}, SeamFill::faded});
  const auto timing = planTiming(t.m.song, t.m.set);
  const auto each = checksOf(t.m.song, t.m.set, timing);
  const auto all = checksOf(t.m.song, {{t.m.set, timing}}, {});
  std::set<HitId> places;
  std::size_t found = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    EXPECT_EQ(all[i].set, t.m.set);
    EXPECT_TRUE(places.insert(all[i].hit).second);
    found += 1 + all[i].also.size();
    if (i > 0) EXPECT_LE(all[i].risk, all[i - 1].risk);
  }
  EXPECT_GT(found, 0u);
  EXPECT_EQ(found, each.size()) << "nothing is lost by taking together";
}

TEST(Pieces, OfACopyAreTheCopysHoweverTheOnesThatItWasTakenFromAre) {
  const auto m = planned();
  Song song = m.song;
  auto& set = song.sets.front();
  ClipList clips = *set.clips;
  Clip copy = *song.find(clips[clips.size() / 2].id);
  copy.id = song.newId<ClipTag>();
  copy.piece.reset();
  copy.seam = {};
  copy.start = song.end() + Frames{song.rate};
  copy.length = Frames{3 * song.rate};
  copy.gainDb = -6;
  clips.push_back(copy);
  set.clips = clips;
  ASSERT_TRUE(brokenRules(song).empty()) << brokenRules(song).front();
  const auto again = *applyTimingPlan(song, m.set, m.pool);
  std::size_t pieces = 0;
  for (const auto& c : *again.find(m.set)->clips) {
    if (c.start < copy.start - Frames{song.rate / 2}) {
      EXPECT_EQ(c.gainDb, 0);
      continue;
    }
    ++pieces;
    EXPECT_EQ(c.gainDb, -6) << c.start.value;
  }
  EXPECT_GT(pieces, 3U);
}

}  // namespace
}  // namespace ochron

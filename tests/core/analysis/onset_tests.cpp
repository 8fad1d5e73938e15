#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "analysis/drums/onsets.h"
#include "analysis/levels/localise.h"
#include "media/decoded.h"
#include "song/hit.h"
#include "support/performance.h"
#include "support/scratch.h"

namespace ochron {
namespace {

/// What counts at the default settings.
std::vector<Frames> counted(const std::vector<Onset>& onsets, int rate = 48'000) {
  HitList all;
  for (const auto& o : onsets) {
    Hit h;
    h.at = o.at, h.strength = o.strength, h.confidence = o.confidence;
    for (const auto& g : o.guides) h.heardBy.push_back({TrackId{static_cast<std::uint64_t>(g.guide + 1)}, g.claim});
    all.push_back(h);
  }
  std::vector<Frames> out;
  for (const auto& h : activeHits(all, {}, rate)) out.push_back(h.at);
  return out;
}

std::vector<Onset> detect(const std::vector<std::span<const float>>& mics, int rate = 48'000) {
  std::vector<GuideSignal> signals;
  signals.reserve(mics.size());
  for (const auto& m : mics) signals.push_back({m, Frames{0}});
  Progress progress;
  return *detectOnsets(signals, rate, progress);
}

class KickAndSnareGuides : public ::testing::TestWithParam<test::Style> {};

TEST_P(KickAndSnareGuides, FindEveryStrokeAndNoBleed) {
  const auto p = test::perform(GetParam());
  std::vector<Frames> truth;
  for (const auto& h : p.of({DrumClass::kick, DrumClass::snare})) truth.push_back(h.at);
  const auto score = test::compare(truth, counted(detect({p.mics[0], p.mics[1]}, GetParam().rate), GetParam().rate),
                                   GetParam().rate, 5);
  EXPECT_GE(score.f1, 0.98) << "precision " << score.precision << " recall " << score.recall;
  EXPECT_LE(score.medianMs, 0.3);
  EXPECT_LE(score.p95Ms, 2.0);
}

test::Style kit(double bpm, double ghosts, double kickHz, double snareHz, int rate, std::uint64_t seed) {
  test::Style s;
  s.bpm = bpm, s.ghostShare = ghosts, s.kickHz = kickHz, s.snareHz = snareHz, s.rate = rate, s.seed = seed;
  return s;
}
INSTANTIATE_TEST_SUITE_P(Kits, KickAndSnareGuides,
                         ::testing::Values(kit(120, 0.4, 55, 190, 48'000, 1), kit(72, 0.7, 45, 160, 48'000, 2),
                                           kit(176, 0.1, 65, 240, 48'000, 3), kit(100, 0, 50, 210, 44'100, 4),
                                           kit(132, 0.5, 58, 180, 96'000, 5)));

// Falls short of the bar of 0.98 (docs/figures.md): ghosts within some 12 ms after a hat of similar level are missed.
// Held here so that it gets no worse.
TEST(DenseGhostsAmongHats, AreFoundAsWellAsMeasured) {
  const auto style = kit(176, 0.3, 65, 240, 48'000, 3);
  const auto p = test::perform(style);
  std::vector<Frames> truth;
  for (const auto& h : p.of({DrumClass::kick, DrumClass::snare})) truth.push_back(h.at);
  const auto score = test::compare(truth, counted(detect({p.mics[0], p.mics[1]})), 48'000, 5);
  EXPECT_GE(score.f1, 0.965) << "precision " << score.precision << " recall " << score.recall;
}

TEST(DemoSong, HitsOfKickAndSnareGuidesMeetTheBar) {
  const std::filesystem::path folder = std::filesystem::path(OCHRON_SOURCE_DIR) / "demo" / "song";
  std::ifstream in(folder / "truth.json");
  ASSERT_TRUE(in.good());
  const auto j = nlohmann::json::parse(in);
  std::vector<Frames> truth;
  for (const auto& h : j["hits"])
    if (h["class"] == "kick" || h["class"] == "snare") truth.emplace_back(h["frame"].get<std::int64_t>());
  const test::Scratch scratch;
  Progress progress;
  const auto media = folder / "Low Tide Lanterns.ochron" / "media";
  const auto kick = decodeMedia(media / "Kick In.flac", "kick", {scratch.path()}, progress);
  const auto snare = decodeMedia(media / "Snare Top.flac", "snare", {scratch.path()}, progress);
  ASSERT_TRUE(kick && snare);
  const auto score =
      test::compare(truth, counted(detect({(*kick)->channel(0).floats(), (*snare)->channel(0).floats()})), 48'000, 5);
  EXPECT_GE(score.f1, 0.98) << "precision " << score.precision << " recall " << score.recall;
  EXPECT_LE(score.medianMs, 0.5);
}

TEST(Localise, FindsTheFrameWhereANoiseBurstBegins) {
  std::mt19937 dice(7);
  std::normal_distribution<float> noise(0, 1);
  for (int round = 0; round < 40; ++round) {
    std::vector<float> s(9600);
    const auto at = 3000 + static_cast<std::int64_t>(dice() % 3000);
    for (std::size_t i = 0; i < s.size(); ++i)
      s[i] = noise(dice) * (static_cast<std::int64_t>(i) >= at ? 0.3f : 0.002f);
    EXPECT_NEAR(static_cast<double>(localiseAttack(s, 48'000, at + 150, 0)), static_cast<double>(at), 10);
  }
}

TEST(Onsets, SilenceHasNone) {
  const std::vector<float> silence(96'000, 0.0f);
  EXPECT_TRUE(detect({silence, silence}).empty());
}

TEST(Onsets, ASilentGuideDoesNoHarm) {
  const auto p = test::perform({});
  const std::vector<float> silence(p.mics[0].size(), 0.0f);
  EXPECT_EQ(counted(detect({p.mics[0], p.mics[1], silence})).size(), counted(detect({p.mics[0], p.mics[1]})).size());
}

TEST(Onsets, VeryShortInputIsFine) {
  const std::vector<float> s(100, 0.5f);
  EXPECT_LE(detect({s}).size(), 1u);
  EXPECT_TRUE(detect({std::span<const float>{}}).empty());
}

TEST(Onsets, CancelIsObeyed) {
  const auto p = test::perform({});
  Progress progress;
  progress.cancel();
  const auto r = detectOnsets({{p.mics[0], Frames{0}}}, 48'000, progress);
  ASSERT_FALSE(r.has_value());
  EXPECT_EQ(r.error().kind, ErrorKind::cancelled);
}

}  // namespace
}  // namespace ochron

#include <gtest/gtest.h>

#include <cmath>

#include "edits/hit_edits.h"
#include "edits/plan_edits.h"
#include "feel/plan_timing.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

/// Kick on straight eighths, hats on swung sixteenths, everything a little off.
test::MadeSong kickStraightHatSwung(double swing) {
  const auto map = *TempoMap::steady(48'000, 96);
  const auto straight = gridLines(map, {8, StepKind::straight, 50}, Ticks{0}, map.barStart(8));
  const auto swung = gridLines(map, {16, StepKind::straight, swing}, Ticks{0}, map.barStart(8));
  std::vector<Hit> hits;
  const auto add = [&](const GridLine& line, DrumClass drum, std::int64_t off) {
    Hit h;
    h.at = line.frame + Frames{2000 + off};
    h.drum = drum;
    h.strength = drum == DrumClass::kick ? 1 : 0.6;
    h.confidence = 1;
    hits.push_back(h);
  };
  int n = 0;
  for (const auto& l : straight)
    if (l.place % 2 == 0) add(l, DrumClass::kick, n++ % 3 * 90 - 90);
  for (const auto& l : swung)
    if (l.place % 2 == 1) add(l, DrumClass::hat, n++ % 3 * 90 - 90);
  std::sort(hits.begin(), hits.end(), [](auto& a, auto& b) { return a.at < b.at; });
  auto m = test::songOf(map, {std::vector<float>(48'000 * 22, 0.01f)}, hits);
  m.song.tempo = *TempoMap::steady(48'000, 96, {}, Frames{2000});
  return m;
}

TEST(GridRules, HatsSwingWhileTheKickStaysStraight) {
  const auto m = kickStraightHatSwung(62);
  TimingSettings s;
  s.grid = {8, StepKind::straight, 50};
  s.gridRules = {{{16, StepKind::straight, 62}, DrumClass::hat, {}}};
  const auto r = test::planOf(m, s);
  const auto swung = Grid{16, StepKind::straight, 62};
  for (const auto& h : r.hits) {
    ASSERT_TRUE(h.line);
    const auto& grid = h.hit.drum == DrumClass::hat ? swung : s.grid;
    EXPECT_EQ(h.to(), nearestLine(m.song.tempo, grid, m.song.tempo.toTicks(h.home)).frame);
    EXPECT_LE(std::abs(h.beforeMs), 2.5);
  }
}

TEST(GridRules, AStretchOfTheSongHasAGridOfItsOwn) {
  const auto m = kickStraightHatSwung(66);
  const auto& map = m.song.tempo;
  TimingSettings s;
  s.grid = {16, StepKind::straight, 50};
  s.gridRules = {{{16, StepKind::straight, 66}, {}, std::pair{map.barStart(4), map.barStart(8)}}};
  for (const auto& h : test::planOf(m, s).hits) {
    ASSERT_TRUE(h.line);
    const bool later = map.toTicks(h.home) >= map.barStart(4);
    if (h.hit.drum != DrumClass::hat) continue;
    // Swung hats: near their own lines where the grid is swung, 16 % of an eighth late where it is straight.
    EXPECT_LT(std::abs(h.beforeMs - (later ? 0 : 50)), 8) << h.home.value;
  }
}

TEST(GridRules, LaterRulesWin) {
  TimingSettings s;
  s.gridRules = {{{4, StepKind::straight, 50}, {}, {}}, {{8, StepKind::triplet, 50}, DrumClass::hat, {}}};
  EXPECT_EQ(s.gridFor(DrumClass::hat, Ticks{5}).denominator, 8);
  EXPECT_EQ(s.gridFor(DrumClass::kick, Ticks{5}).denominator, 4);
}

TEST(GuideSettings, AGuidesWeightAndSensitivityDecideAboutWhatItHears) {
  const TrackId kick{1};
  const TrackId snare{2};
  HitList all(3);
  for (std::size_t i = 0; i < 3; ++i) all[i].at = Frames{static_cast<std::int64_t>(10'000 * (i + 1))};
  all[0].strength = 0.9, all[0].heardBy = {{kick, 0.9}, {snare, 0.02}};
  all[1].strength = 0.1, all[1].heardBy = {{snare, 0.1}};
  all[2].strength = 0.03, all[2].heardBy = {{snare, 0.03}};
  const auto count = [&](const HitSettings& s) { return activeHits(all, s, 48'000).size(); };
  HitSettings s;
  EXPECT_EQ(count(s), 2u);
  s.guides[snare] = {100, 20};  // more sensitive: the ghost comes in
  EXPECT_EQ(count(s), 3u);
  s.guides[snare] = {100, -30};
  EXPECT_EQ(count(s), 1u);
  s.guides[snare] = {0, 0};  // not listened to
  EXPECT_EQ(count(s), 1u);
  s.guides[kick] = {0, 0};
  EXPECT_EQ(count(s), 0u);
  s.guides[snare] = {200, 0};
  EXPECT_EQ(count(s), 2u);
}

TEST(Hits, ACorrectedHitGoesBackToWhereItWasFound) {
  const auto m = test::songOf(test::perform({}));
  const auto first = m.song.hitsOf(m.take, m.set)->front();
  const auto moved = *moveHit(*moveHit(m.song, m.take, m.set, first.id, first.at + Frames{50}), m.take, m.set, first.id,
                              first.at + Frames{90});
  const auto back = *restoreHit(moved, m.take, m.set, first.id);
  EXPECT_EQ(*back.hitsOf(m.take, m.set), *m.song.hitsOf(m.take, m.set));
  EXPECT_FALSE(restoreHit(back, m.take, m.set, first.id));
}

}  // namespace
}  // namespace ochron

#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"

#include <gtest/gtest.h>

#include <random>

#include "seams/apply_plan.h"
#include "seams/seam_edits.h"
#include "store/song_json.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::MadeSong made(std::uint64_t seed = 1) {
  test::Style style;
  style.bars = 6;
  style.seed = seed;
  return test::songOf(test::perform(style));
}

Song replanned(const test::MadeSong& m, const Song& song, double strength = 100) {
  TimingPlan plan = *song.find(m.set)->plan;
  plan.settings.on = true;
  plan.settings.strength = strength;
  return *applyTimingPlan(*setTimingPlan(song, m.set, plan), m.set, m.pool);
}

/// A random decision about a random seam.
Result<Song> anySeam(const test::MadeSong& m, const Song& song, std::mt19937_64& dice) {
  const auto& clips = *song.find(m.set)->clips;
  if (clips.size() < 2) return song;
  const auto& clip = clips[1 + dice() % (clips.size() - 1)];
  SeamOverride change;
  if (dice() % 2) change.leadIn = Frames{static_cast<std::int64_t>(dice() % 20'000) - 2'000};
  if (dice() % 2) change.length = Frames{static_cast<std::int64_t>(dice() % 1'500)};
  if (dice() % 3 == 0) change.fill = static_cast<SeamFill>(dice() % 5);
  if (dice() % 3 == 0) change.law = static_cast<CrossfadeLaw>(dice() % 3);
  return changeSeams(song, m.set, {clip.id}, change);
}

/// One random edit; the song itself when the edit was refused.
Song randomEdit(const test::MadeSong& m, const Song& song, std::mt19937_64& dice) {
  const auto& clips = *song.find(m.set)->clips;
  const auto pick = [&] { return clips.empty() ? ClipId{} : clips[dice() % clips.size()].id; };
  const auto end = static_cast<std::uint64_t>(std::max<std::int64_t>(1, song.end().value));
  const Frames at{static_cast<std::int64_t>(dice() % end)};
  const Frames by{static_cast<std::int64_t>(dice() % 96'000) - 48'000};
  const auto& hits = *song.hitsOf(m.take, m.set);
  const auto hit = hits[dice() % hits.size()].id;
  const auto next = [&]() -> Result<Song> {
    switch (dice() % 16) {
      case 0: return splitAt(song, m.set, {at}, Frames{static_cast<std::int64_t>(dice() % 400)});
      case 1: return moveClips(song, {pick()}, by);
      case 2: return trimStarts(song, {pick()}, by, dice() % 3 == 0);
      case 3: return trimEnds(song, {pick()}, by, dice() % 3 == 0);
      case 4: return clips.size() > 3 ? deleteClips(song, {pick()}) : Result<Song>(song);
      case 5: return replanned(m, song, static_cast<double>(dice() % 101));
      case 6: return moveHit(song, m.take, m.set, hit, at);
      case 7: return addHit(song, m.take, m.set, at, DrumClass::other);
      case 8: return removeHits(song, m.take, m.set, {hit});
      case 9: return anySeam(m, song, dice);
      case 10: return leaveAlone(song, m.set, {at, at + Frames{by.value + 50'000}}, dice() % 2 == 0);
      case 11: return lockRange(song, m.set, {at, at + Frames{30'000}});
      case 12: return unlockRange(song, m.set, {at - Frames{100'000}, at + Frames{100'000}});
      case 13: {
        TimingPlan plan = *song.find(m.set)->plan;
        plan.overrides[hit].target = song.tempo.toTicks(at);
        plan.overrides[hit].joined = dice() % 2 == 0;
        auto changed = setTimingPlan(song, m.set, plan);
        return changed ? applyTimingPlan(*changed, m.set, m.pool) : changed;
      }
      case 14: return restoreHit(song, m.take, m.set, hit);
      default: {
        TimingPlan plan = *song.find(m.set)->plan;
        plan.settings.method = dice() % 3 == 0 ? TimingMethod::stretch : TimingMethod::slices;
        plan.settings.on = dice() % 2 == 0;
        const auto changed = setTimingPlan(song, m.set, plan);
        return changed ? applyTimingPlan(*changed, m.set, m.pool) : changed;
      }
    }
  }();
  return next ? *next : song;
}

class RandomEdits : public ::testing::TestWithParam<std::uint64_t> {};

TEST_P(RandomEdits, KeepEveryRuleAndSurviveSaving) {
  SCOPED_TRACE(testing::Message() << "seed " << GetParam());
  std::mt19937_64 dice(GetParam());
  const auto m = made(GetParam());
  Song song = m.song;
  std::vector<Song> past;
  for (int i = 0; i < 120; ++i) {
    past.push_back(song);
    song = randomEdit(m, song, dice);
    const auto broken = brokenRules(song);
    ASSERT_TRUE(broken.empty()) << "after edit " << i << ": " << broken.front();
  }
  const auto back = songFromJson(songToJson(song), "song.json");
  ASSERT_TRUE(back.has_value()) << back.error().message;
  EXPECT_EQ(*back, song);
  EXPECT_EQ(songToJson(*back), songToJson(song));
  EXPECT_EQ(past.front(), m.song);  // earlier songs are values: nothing reached back into them
}
INSTANTIATE_TEST_SUITE_P(Seeds, RandomEdits, ::testing::Range<std::uint64_t>(1, 160));

TEST(ImportTake, PlacesFilesByTheirTimeStamps) {
  Song song;
  std::vector<IncomingFile> files(2);
  files[0].name = "a", files[0].length = Frames{48'000}, files[0].timeReference = 480'000;
  files[1].name = "b", files[1].length = Frames{48'000}, files[1].timeReference = 482'400;
  ImportSettings settings;
  settings.sets = {{0, 1}};
  const auto next = *importTake(song, files, settings);
  EXPECT_EQ(next.takes[0].mics[1].offset, Frames{2400});
  EXPECT_EQ(next.takes[0].length, Frames{50'400});
  EXPECT_EQ(next.sets.size(), 1u);
  EXPECT_TRUE(brokenRules(next).empty());
}

TEST(MicSet, MovesAsOneBecauseItsTracksShareTheirClips) {
  const auto m = made();
  const auto clip = m.song.find(m.set)->clips->front();
  const auto next = *moveClips(m.song, {clip.id}, Frames{777});
  EXPECT_EQ(next.find(m.set)->clips->front().start, clip.start + Frames{777});
  EXPECT_EQ(next.find(m.set)->tracks.size(), 4u);
}

TEST(MicSet, CanBeTakenApartAndMadeAgain) {
  const auto m = made();
  const auto apart = *dissolveMicSet(m.song, m.set);
  EXPECT_EQ(apart.sets.size(), 4u);
  EXPECT_TRUE(brokenRules(apart).empty());
  std::vector<TrackId> tracks;
  for (const auto& t : apart.tracks) tracks.push_back(t.id);
  const auto again = *makeMicSet(apart, tracks, "Kit");
  ASSERT_EQ(again.sets.size(), 1u);
  EXPECT_EQ(again.sets[0].tracks.size(), 4u);
  EXPECT_EQ(again.sets[0].clips->front().length, m.song.sets[0].clips->front().length);
  const auto cut = *splitAt(apart, apart.sets[0].id, {Frames{50'000}}, Frames{96});
  EXPECT_FALSE(makeMicSet(cut, tracks, "Kit"));
}

TEST(Trim, BringsMaterialBackUpToTheRecordingsEnd) {
  const auto m = made();
  const auto clip = m.song.find(m.set)->clips->front();
  auto next = *trimEnds(m.song, {clip.id}, Frames{1000} - clip.length);
  EXPECT_EQ(next.find(m.set)->clips->front().length, Frames{1000});
  next = *trimEnds(next, {clip.id}, Frames{1'000'000'000});
  EXPECT_EQ(next.find(m.set)->clips->front().length, clip.length);
}

TEST(Hits, CorrectedAndRemovedOnesSurviveANewDetection) {
  const auto m = made();
  const auto& hits = *m.song.hitsOf(m.take, m.set);
  const auto moved = hits[3];
  const auto gone = hits[5];
  auto song = *moveHit(m.song, m.take, m.set, moved.id, moved.at + Frames{2000});
  song = *removeHits(song, m.take, m.set, {gone.id});
  song = *setDetectedHits(song, m.take, m.set, hits);
  const auto after = activeHits(*song.hitsOf(m.take, m.set), {100, 5}, song.rate);
  const auto at = [&](Frames f) {
    return std::count_if(after.begin(), after.end(), [&](auto& h) { return h.at == f; });
  };
  EXPECT_EQ(at(moved.at + Frames{2000}), 1);
  EXPECT_EQ(at(moved.at), 0);
  EXPECT_EQ(at(gone.at), 0);
}

TEST(Hits, SensitivityOnlyFilters) {
  const auto m = made();
  const auto& all = *m.song.hitsOf(m.take, m.set);
  const auto most = activeHits(all, {100, 5}, 48'000).size();
  const auto fewer = activeHits(all, {20, 5}, 48'000).size();
  EXPECT_EQ(most, all.size());
  EXPECT_LT(fewer, most);
  EXPECT_GT(fewer, 0u);
}

TEST(TempoMapEdit, GridHeldClipsMoveAndClockHeldOnesStay) {
  auto m = made();
  ClipList clips = *m.song.find(m.set)->clips;
  for (const auto hold : {Hold::clock, Hold::grid}) {
    clips[0].start = Frames{96'000};
    clips[0].hold = hold;
    Song song = m.song;
    song.sets[0].clips = clips;
    song.tempo = *TempoMap::steady(48'000, 120);
    const auto next = *setTempoMap(song, *TempoMap::steady(48'000, 60));
    EXPECT_EQ(next.sets[0].clips->front().start, Frames{hold == Hold::grid ? 192'000 : 96'000});
  }
}

}  // namespace
}  // namespace ochron

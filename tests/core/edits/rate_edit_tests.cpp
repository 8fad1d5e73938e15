#include "edits/rate_edits.h"

#include <gtest/gtest.h>

#include <random>

#include "edits/clip_edits.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

using test::TwoSets;

double seconds(Frames f, const Song& s) { return static_cast<double>(f.value) / s.rate; }

/// A song with cuts, fades, a span, locks and hits.
Song busy(std::uint64_t seed) {
  TwoSets t;
  std::mt19937_64 dice(seed);
  auto song = t.song;
  for (int i = 0; i < 60; ++i) {
    const Frames at{static_cast<std::int64_t>(dice() % 470'000) + 2'000};
    if (auto next = splitAt(song, song.sets[dice() % song.sets.size()].id, {at}, Frames{0})) song = *next;
  }
  HitList hits;
  for (int i = 0; i < 40; ++i) {
    Hit h;
    h.id = song.newId<HitTag>();
    h.at = Frames{3'001 + i * 11'003};
    h.strokes = {{h.at, DrumClass::kick, 0.9}, {h.at + Frames{77}, DrumClass::hat, 0.3}};
    hits.push_back(h);
  }
  song.takes.front().facts = {{song.sets.front().id, hits, {}, {}}};
  song.sets.front().locks = {{Frames{100'001}, Frames{150'003}}};
  return song;
}

TEST(SongRate, EverythingStaysAtItsSecondAndEveryRuleHolds) {
  for (std::uint64_t seed = 1; seed < 12; ++seed) {
    const auto song = busy(seed);
    for (const int rate : {44'100, 88'200, 96'000, 192'000, 8'000}) {
      const auto at = songAtRate(song, rate);
      ASSERT_TRUE(at) << at.error().message << at.error().detail;
      EXPECT_TRUE(brokenRules(*at).empty());
      EXPECT_EQ(at->rate, rate);
      EXPECT_EQ(at->tempo.rate(), rate);
      const double frame = 1.0 / std::min(rate, song.rate);
      for (std::size_t s = 0; s < song.sets.size(); ++s) {
        const auto& before = *song.sets[s].clips;
        const auto& after = *at->sets[s].clips;
        ASSERT_EQ(before.size(), after.size());
        for (std::size_t i = 0; i < before.size(); ++i) {
          EXPECT_NEAR(seconds(before[i].start, song), seconds(after[i].start, *at), frame);
          EXPECT_NEAR(seconds(before[i].end(), song), seconds(after[i].end(), *at), 2 * frame);
          // What touched touches still, and plays on in the recording.
          if (i == 0 || before[i - 1].end() != before[i].start || rate < 44'100) continue;
          EXPECT_EQ(after[i - 1].end(), after[i].start);
          if (before[i - 1].shift() == before[i].shift()) EXPECT_EQ(after[i - 1].shift(), after[i].shift());
        }
      }
      const auto& hits = *at->takes.front().facts.front().hits;
      for (std::size_t i = 0; i < hits.size(); ++i)
        EXPECT_NEAR(seconds(hits[i].at, *at), seconds((*song.takes.front().facts.front().hits)[i].at, song), frame);
    }
  }
}

TEST(SongRate, ThereAndBackIsTheSameSongAtEveryHigherRate) {
  const auto song = busy(5);
  for (const int rate : {96'000, 192'000}) {
    const auto there = songAtRate(song, rate);
    ASSERT_TRUE(there);
    const auto back = songAtRate(*there, song.rate);
    ASSERT_TRUE(back);
    EXPECT_EQ(*back, song);
  }
}

TEST(SongRate, TheSameRateIsTheSameSongAndAnImpossibleOneIsRefused) {
  const auto song = busy(2);
  EXPECT_EQ(*songAtRate(song, song.rate), song);
  EXPECT_FALSE(songAtRate(song, 1'000));
  EXPECT_FALSE(songAtRate(song, 1'000'000));
}

TEST(SongRate, TheEmptySongTakesAnyRate) {
  for (const int rate : kUsualRates) {
    const auto at = songAtRate(Song{}, rate);
    ASSERT_TRUE(at);
    EXPECT_EQ(at->rate, rate);
    EXPECT_EQ(at->tempo.rate(), rate);
  }
}

}  // namespace
}  // namespace ochron

// A clip made longer or shorter by hand is pinned at its hits.

#include "edits/stretch_edits.h"

#include <gtest/gtest.h>

#include <cmath>

#include "edits/clip_edits.h"
#include "edits/locks.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "support/gated.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

struct Played {
  test::Performance performance;
  test::MadeSong made;
  ClipId clip;

  Played() {
    test::Style style;
    style.bars = 4;
    performance = test::perform(style);
    made = test::songOf(performance);
    clip = made.song.find(made.set)->clips->front().id;
  }
};

class StretchedBy : public ::testing::TestWithParam<double> {};

TEST_P(StretchedBy, EveryHitLiesWhereTheRatioPutsItAndItsAttackIsTheRecordingsOwn) {
  const Played p;
  const double ratio = GetParam();
  const auto song = stretchAtHits(p.made.song, p.clip, ratio);
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_TRUE(brokenRules(*song).empty());
  const auto& clip = *song->find(p.clip);
  EXPECT_EQ(clip.length.value, std::llround(static_cast<double>(p.made.song.find(p.clip)->length.value) * ratio));
  MadeStore store;
  Progress progress;
  ASSERT_TRUE(makeMissing(*song, p.made.pool, store, Frames{}, progress));
  const auto plan = compilePlan(*song, p.made.pool, nullptr, &store);
  std::vector<float> out(static_cast<std::size_t>(clip.end().value), 0.0F);
  addSegments(*plan.tracks[0].channels[0], Frames{}, out);
  const auto source = p.made.pool.at(song->takes[0].mics[0].media)->channel(0).floats();
  int looked = 0;
  for (const auto& h : *song->hitsOf(p.made.take, p.made.set)) {
    const auto at = clip.toSong(h.at);
    EXPECT_NEAR(static_cast<double>(at.value), static_cast<double>(h.at.value) * ratio, 2);
    if (h.at.value + 300 > std::ssize(source) || at.value + 300 > std::ssize(out)) continue;
    for (std::int64_t k = 0; k < 200; ++k)
      ASSERT_EQ(out[static_cast<std::size_t>(at.value + k)], source[static_cast<std::size_t>(h.at.value + k)]) << k;
    ++looked;
  }
  EXPECT_GT(looked, 10);
}
INSTANTIATE_TEST_SUITE_P(Ratios, StretchedBy, ::testing::Values(0.8, 1.0, 1.25, 2.0));

TEST(StretchAtHits, ThereAndBackPutsEveryHitWhereItWas) {
  const Played p;
  const auto there = *stretchAtHits(p.made.song, p.clip, 1.3);
  const auto back = *stretchAtHits(there, p.clip, 1 / 1.3);
  const auto& clip = *back.find(p.clip);
  for (const auto& h : *back.hitsOf(p.made.take, p.made.set))
    EXPECT_NEAR(static_cast<double>(clip.toSong(h.at).value), static_cast<double>(h.at.value), 2);
}

TEST(StretchAtHits, APartOfATakeIsStretchedFromItsOwnStart) {
  const Played p;
  const auto cut = *splitAt(p.made.song, p.made.set, {Frames{100'000}, Frames{200'000}}, Frames{});
  const auto part = (*cut.find(p.made.set)->clips)[1].id;
  const auto song = *stretchAtHits(cut, part, 0.5);
  EXPECT_TRUE(brokenRules(song).empty());
  EXPECT_EQ(song.find(part)->start, Frames{100'000});
  EXPECT_EQ(song.find(part)->length, Frames{50'000});
}

TEST(StretchAtHits, RefusesWhatIsTooMuchOrLocked) {
  const Played p;
  EXPECT_FALSE(stretchAtHits(p.made.song, p.clip, 0));
  EXPECT_FALSE(stretchAtHits(p.made.song, p.clip, std::nan("")));
  EXPECT_FALSE(stretchAtHits(p.made.song, p.clip, 11));
  const auto locked = *lockSet(p.made.song, p.made.set, true);
  EXPECT_FALSE(test::gated(locked, stretchAtHits(locked, p.clip, 1.2)));
}

}  // namespace
}  // namespace ochron

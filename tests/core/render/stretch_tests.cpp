#include <gtest/gtest.h>

#include <cmath>

#include "edits/pieces.h"
#include "edits/plan_edits.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "seams/apply_plan.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::MadeSong stretchedSong() {
  test::Style style;
  style.bars = 6;
  auto m = test::songOf(test::perform(style));
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.method = TimingMethod::stretch;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  return m;
}

TEST(StretchMethod, EveryAttackStartsExactlyAtItsPinInEveryMic) {
  const auto m = stretchedSong();
  const auto& clips = *m.song.find(m.set)->clips;
  ASSERT_EQ(clips.size(), 1u);
  ASSERT_GT(clips[0].map.pins().size(), 20u);
  Progress progress;
  MadeStore made;
  ASSERT_TRUE(makeMissing(m.song, m.pool, made, Frames{}, progress));
  const auto plan = compilePlan(m.song, m.pool, nullptr, &made);
  EXPECT_FALSE(plan.preview);
  const auto& mics = m.song.takes[0].mics;
  for (std::size_t mic = 0; mic < mics.size(); ++mic) {
    std::vector<float> out(static_cast<std::size_t>(m.song.end().value), 0.0f);
    addSegments(*plan.tracks[mic].channels[0], Frames{0}, out);
    const auto source = m.pool.at(mics[mic].media)->channel(0).floats();
    const auto& pins = clips[0].map.pins();
    for (std::size_t i = 1; i + 1 < pins.size(); ++i) {
      const auto hold = std::min<std::int64_t>(
          960,
          std::min((pins[i + 1].take - pins[i].take).value, (pins[i + 1].stretched - pins[i].stretched).value) / 4);
      for (std::int64_t k = 0; k < hold; ++k)
        ASSERT_EQ(out[static_cast<std::size_t>(clips[0].placed(pins[i].stretched).value + k)],
                  source[static_cast<std::size_t>(pins[i].take.value + k)])
            << "pin " << i << " frame " << k;
    }
  }
}

TEST(StretchMethod, PutsHitsWhereTheSlicesPutThem) {
  const auto m = stretchedSong();
  const auto timing = planTiming(m.song, m.set);
  const auto& clip = m.song.find(m.set)->clips->front();
  const auto& pins = clip.map.pins();
  int found = 0;
  for (const auto& h : timing.hits)
    for (const auto& p : pins)
      if (p.take == h.hit.at) {
        EXPECT_EQ(clip.placed(p.stretched), h.to());
        ++found;
      }
  EXPECT_EQ(found, static_cast<int>(pins.size()) - 2);
}

TEST(StretchMethod, TurningThePlanOffBringsBackTheOriginal) {
  auto m = stretchedSong();
  const auto back = withoutPlan(*m.song.find(m.set)->clips);
  ASSERT_EQ(back.size(), 1u);
  EXPECT_TRUE(back[0].map.identity());
  EXPECT_EQ(back[0].length, m.song.takes[0].length);
}

TEST(StretchMethod, CancelIsObeyedAndWhatIsThereIsTakenOver) {
  const auto m = stretchedSong();
  Progress progress;
  MadeStore made;
  Progress cancelled;
  cancelled.cancel();
  EXPECT_FALSE(makeMissing(m.song, m.pool, made, Frames{}, cancelled));
  ASSERT_TRUE(makeMissing(m.song, m.pool, made, Frames{}, progress));
  const auto parts = made.timesKept();
  EXPECT_GT(parts, 20u);
  ASSERT_TRUE(makeMissing(m.song, m.pool, made, Frames{}, progress));
  EXPECT_EQ(made.timesKept(), parts);
}

TEST(ClipPieces, CoverTheClipWithoutHoles) {
  const auto m = stretchedSong();
  const auto& clip = m.song.find(m.set)->clips->front();
  Frames at = clip.start;
  for (const auto& p : clip.pieces()) {
    EXPECT_EQ(p.range.start, at);
    EXPECT_GT(p.speed, 0.3);
    at = p.range.end;
  }
  EXPECT_EQ(at, clip.end());
}

}  // namespace
}  // namespace ochron

#include <gtest/gtest.h>

#include <random>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"
#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/pieces.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "edits/track_edits.h"
#include "feel/plan_timing.h"
#include "seams/apply_plan.h"
#include "support/gated.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

test::MadeSong lockable(const TimingSettings& settings = {}) {
  test::Style style;
  style.bars = 12;
  auto m = test::songOf(test::perform(style));
  TimingPlan plan;
  plan.settings = settings;
  plan.settings.on = true;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  return m;
}

FrameRange bars(const Song& song, int first, int last) {
  return {song.tempo.toFrames(song.tempo.barStart(first)), song.tempo.toFrames(song.tempo.barStart(last))};
}

Song withSettings(const test::MadeSong& m, const Song& song, const TimingSettings& settings) {
  TimingPlan plan = *song.find(m.set)->plan;
  plan.settings = settings;
  const auto next = test::gated(song, setTimingPlan(song, m.set, plan), m.pool);
  EXPECT_TRUE(next) << next.error().message;
  return next ? *next : song;
}

std::vector<float> sound(const test::MadeSong& m, const Song& song, FrameRange range) {
  auto copy = m;
  copy.song = song;
  return test::rendered(copy, 1, range);
}

TEST(Lock, ALockedSetRefusesEveryEditAndSaysSo) {
  const auto m = lockable();
  const auto song = *lockSet(m.song, m.set, true);
  const auto clip = song.find(m.set)->clips->front().id;
  const auto hit = song.hitsOf(m.take, m.set)->front();
  TimingPlan other = *song.find(m.set)->plan;
  other.settings.strength = 40;
  const std::vector<Result<Song>> tries{
      moveClips(song, {clip}, Frames{100}),
      trimStarts(song, {clip}, Frames{50}),
      splitAt(song, m.set, {Frames{2000}}, Frames{10}),
      deleteClips(song, {clip}),
      addHit(song, m.take, m.set, Frames{777}, DrumClass::tom),
      moveHit(song, m.take, m.set, hit.id, Frames{5}),
      removeHits(song, m.take, m.set, {hit.id}),
      setHitClass(song, m.take, m.set, {hit.id}, DrumClass::tom),
      setDetectedHits(song, m.take, m.set, {}),
      setHitSettings(song, m.set, {10, 20}),
      setTimingPlan(song, m.set, other),
      leaveAlone(song, m.set, {Frames{0}, Frames{90'000}}, true),
      dissolveMicSet(song, m.set),
      removeTracks(song, {song.tracks.front().id}),
  };
  for (std::size_t i = 0; i < tries.size(); ++i) {
    const auto made = test::gated(song, tries[i], m.pool);
    ASSERT_FALSE(made.has_value()) << "edit " << i;
    EXPECT_NE(made.error().message.find("is locked"), std::string::npos) << i << ": " << made.error().message;
  }
  EXPECT_TRUE(moveClips(*lockSet(song, m.set, false), {clip}, Frames{100}));
}

TEST(Lock, WhatLiesInALockedRangeStaysToTheSampleWhenThePlanChanges) {
  const auto m = lockable();
  const auto locked = *lockRange(m.song, m.set, bars(m.song, 4, 6));
  const auto range = locked.find(m.set)->locks.front();
  const auto before = sound(m, locked, range);
  TimingSettings loose;
  loose.on = true;
  loose.strength = 0;
  const auto after = withSettings(m, locked, loose);
  EXPECT_TRUE(brokenRules(after).empty()) << brokenRules(after).front();
  const auto now = sound(m, after, range);
  // The joints with what lies outside are made anew; they end before the first attack, and begin after the last.
  const std::size_t edge = 2400;
  EXPECT_TRUE(std::equal(before.begin() + edge, before.end() - edge, now.begin() + edge));
  // Outside the plan has let go.
  const auto timing = planTiming(after, m.set);
  int inside = 0;
  for (const auto& h : timing.hits) {
    if (h.locked) {
      ++inside;
      EXPECT_TRUE(range.contains(h.to()));
      if (h.leader == static_cast<std::size_t>(&h - timing.hits.data()) && h.line) EXPECT_NEAR(h.afterMs, 0, 0.03);
    } else if (!h.out && h.opensSlice) {
      EXPECT_EQ(h.move.value, 0);
    }
  }
  EXPECT_GT(inside, 6);
  // Unlocked, the plan has its way there too, and without the plan all is as recorded.
  const auto freed = withSettings(m, *unlockRange(after, m.set, range), loose);
  EXPECT_EQ(withoutPlan(*freed.find(m.set)->clips), withoutPlan(*m.song.find(m.set)->clips));
}

TEST(Lock, EditsBesideALockedRangeAreFreeAndEditsInItAreNot) {
  const auto m = lockable();
  const auto song = *lockRange(m.song, m.set, bars(m.song, 4, 6));
  const auto range = song.find(m.set)->locks.front();
  const auto gated = [&](const Result<Song>& edit) { return test::gated(song, edit, m.pool); };
  EXPECT_FALSE(gated(splitAt(song, m.set, {range.start + Frames{5000}}, Frames{0})));
  EXPECT_TRUE(gated(splitAt(song, m.set, {range.end + Frames{5000}}, Frames{0})));
  const auto timing = planTiming(song, m.set);
  for (const auto& h : timing.hits) {
    TimingPlan plan = *song.find(m.set)->plan;
    plan.overrides[h.hit.id].frozen = true;
    EXPECT_EQ(gated(setTimingPlan(song, m.set, plan)).has_value(), !h.locked);
    EXPECT_EQ(gated(moveHit(song, m.take, m.set, h.hit.id, h.hit.at + Frames{1})).has_value(), !h.locked);
  }
  const auto refused = gated(splitAt(song, m.set, {range.start + Frames{5000}}, Frames{0}));
  EXPECT_NE(refused.error().message.find("Bars "), std::string::npos) << refused.error().message;
}

TEST(Lock, TheOtherMethodIsRefusedWhileARangeIsLocked) {
  const auto m = lockable();
  const auto song = *lockRange(m.song, m.set, bars(m.song, 4, 6));
  TimingPlan plan = *song.find(m.set)->plan;
  plan.settings.method = TimingMethod::stretch;
  const auto refused = test::gated(song, setTimingPlan(song, m.set, plan), m.pool);
  ASSERT_FALSE(refused.has_value());
  EXPECT_NE(refused.error().message.find("locked"), std::string::npos);
}

TEST(Lock, NoSeamAtALocksEdgeIsCutHard) {
  const auto m = lockable();
  const auto song = *lockRange(m.song, m.set, bars(m.song, 4, 6));
  TimingSettings loose;
  loose.on = true;
  loose.strength = 30;
  const auto loosened = withSettings(m, song, loose);
  const auto& clips = *loosened.find(m.set)->clips;
  for (std::size_t i = 1; i < clips.size(); ++i)
    EXPECT_TRUE(clips[i].seam.before + clips[i].seam.after > Frames{24} || clips[i].seam.fill == SeamFill::faded) << i;
}

TEST(Lock, RangesUniteAndComeApart) {
  auto m = lockable();
  TimingPlan off = *m.song.find(m.set)->plan;
  off.settings.on = false;
  m.song = *applyTimingPlan(*setTimingPlan(m.song, m.set, off), m.set, m.pool);
  auto song = *lockRange(m.song, m.set, {Frames{100}, Frames{200}});
  song = *lockRange(song, m.set, {Frames{400}, Frames{500}});
  song = *lockRange(song, m.set, {Frames{200}, Frames{300}});
  EXPECT_EQ(song.find(m.set)->locks, (std::vector<FrameRange>{{Frames{100}, Frames{300}}, {Frames{400}, Frames{500}}}));
  song = *unlockRange(song, m.set, {Frames{150}, Frames{450}});
  EXPECT_EQ(song.find(m.set)->locks, (std::vector<FrameRange>{{Frames{100}, Frames{150}}, {Frames{450}, Frames{500}}}));
  EXPECT_FALSE(lockRange(song, m.set, {}));
}

TEST(Lock, RandomEditsAndSettingsNeverChangeWhatIsLocked) {
  const auto m = lockable();
  auto song = *lockRange(m.song, m.set, bars(m.song, 3, 5));
  const auto range = song.find(m.set)->locks.front();
  const auto inside = partsIn(*song.find(m.set)->clips, range);
  ASSERT_GT(inside.size(), 5u);
  std::mt19937_64 dice(11);
  int done = 0;
  for (int i = 0; i < 150; ++i) {
    const auto& clips = *song.find(m.set)->clips;
    const auto clip = clips[dice() % clips.size()];
    Result<Song> next = song;
    switch (dice() % 5) {
      case 0: next = moveClips(song, {clip.id}, Frames{static_cast<std::int64_t>(dice() % 20'000) - 10'000}); break;
      case 1: next = splitAt(song, m.set, {clip.start + clip.length / 2}, Frames{96}); break;
      case 2: next = trimEnds(song, {clip.id}, Frames{-300}); break;
      case 3: next = deleteClips(song, {clip.id}); break;
      default: {
        TimingSettings s;
        s.on = dice() % 4 != 0;
        s.strength = static_cast<double>(dice() % 101);
        next = withSettings(m, song, s);
      }
    }
    next = test::gated(song, next, m.pool);
    if (!next) continue;
    ++done;
    song = *next;
    ASSERT_TRUE(brokenRules(song).empty()) << brokenRules(song).front();
    // All but the joints at both ends, which belong to what lies outside too.
    const auto now = partsIn(*song.find(m.set)->clips, range);
    for (std::size_t k = 1; k + 1 < inside.size(); ++k) {
      const auto same = std::find_if(now.begin(), now.end(), [&](const Clip& c) {
        return c.start == inside[k].start && c.source == inside[k].source && c.length == inside[k].length;
      });
      ASSERT_NE(same, now.end()) << "piece " << k << " after edit " << i;
      ASSERT_EQ(same->seam, inside[k].seam);
    }
  }
  EXPECT_GT(done, 60);
}

TEST(LeaveAlone, ARangeTakenOutIsHeardAsPlayedAndComesBackWhole) {
  const auto m = lockable();
  const auto range = bars(m.song, 4, 6);
  const auto apply = [&](const Result<Song>& s) { return *applyTimingPlan(*s, m.set, m.pool); };
  const auto out = apply(leaveAlone(m.song, m.set, range, true));
  for (const auto& h : planTiming(out, m.set).hits)
    if (range.contains(h.home)) EXPECT_EQ(h.move.value, 0);
  const auto back = apply(leaveAlone(out, m.set, range, false));
  EXPECT_TRUE(back.find(m.set)->plan->gaps.empty());
  const auto again = planTiming(back, m.set).hits;
  const auto first = planTiming(m.song, m.set).hits;
  ASSERT_EQ(again.size(), first.size());
  for (std::size_t i = 0; i < first.size(); ++i) EXPECT_EQ(again[i].to(), first[i].to());
  // Putting back a part leaves the rest out.
  const auto part = *leaveAlone(out, m.set, bars(m.song, 4, 5), false);
  ASSERT_EQ(part.find(m.set)->plan->gaps.size(), 1u);
  EXPECT_EQ(part.find(m.set)->plan->gaps.front().range, bars(m.song, 5, 6));
}

}  // namespace
}  // namespace ochron

// Which changes are one step, without a window.

#include "edits/history.h"

#include <gtest/gtest.h>
#include <malloc.h>

#include "edits/clip_edits.h"
#include "support/random_edits.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

History::SongPtr named(const std::string& name) {
  auto song = std::make_shared<Song>();
  song->name = name;
  return song;
}

TEST(History, ADragFromPressToReleaseIsOneStep) {
  History h;
  const auto a = named("a");
  const auto b = named("b");
  const auto c = named("c");
  const auto d = named("d");
  h.beginGesture();
  h.record("Move", a, b, "move");
  h.record("Move", b, c, "move");
  h.endGesture();
  h.record("Move", c, d, "move");
  EXPECT_EQ(h.undo(d), c) << "another drag is another step";
  EXPECT_EQ(h.undo(c), a);
  EXPECT_EQ(h.redo(a), c);
  EXPECT_EQ(h.redo(c), d);
  EXPECT_EQ(h.redo(d), nullptr);
}

TEST(History, UnlikeEditsOfOneDragAreStepsOfTheirOwn) {
  History h;
  const auto a = named("a");
  const auto b = named("b");
  const auto c = named("c");
  h.beginGesture();
  h.record("Move", a, b, "move");
  h.record("Bend", b, c, "bend");
  h.endGesture();
  EXPECT_EQ(h.undoName(), "Bend");
  EXPECT_EQ(h.undo(c), b);
  EXPECT_EQ(h.undo(b), a);
}

TEST(History, TakingAGestureBackLeavesWhatWasBeforeIt) {
  History h;
  const auto a = named("a");
  const auto b = named("b");
  const auto c = named("c");
  h.record("First", a, b, {});
  h.beginGesture();
  h.record("Move", b, c, "move");
  EXPECT_EQ(h.takeBackGesture(), b);
  EXPECT_FALSE(h.inGesture());
  EXPECT_EQ(h.undoName(), "First");
  EXPECT_EQ(h.takeBackGesture(), nullptr);
}

TEST(History, AGripThatIsLateEndsNoOtherGesture) {
  History h;
  const auto first = h.beginGesture();
  const auto second = h.beginGesture();
  EXPECT_FALSE(h.isOpen(first));
  EXPECT_TRUE(h.isOpen(second));
  h.clear();
  EXPECT_FALSE(h.isOpen(second));
  EXPECT_GT(h.beginGesture(), second) << "numbers are never used again";
}

TEST(History, KeysInQuickSuccessionWithNothingBetweenAreOneStep) {
  History h;
  const auto a = named("a");
  const auto b = named("b");
  const auto c = named("c");
  const auto d = named("d");
  h.record("Nudge", a, b, "nudge");
  h.record("Nudge", b, c, "nudge");
  h.record("Rename", c, d, {});
  EXPECT_EQ(h.undo(d), c);
  EXPECT_EQ(h.undo(c), a);
}

TEST(History, ADragThereAndBackLeavesNoStep) {
  History h;
  const auto a = named("a");
  const auto b = named("b");
  const auto again = named("a");
  h.beginGesture();
  h.record("Move", a, b, "move");
  h.record("Move", b, again, "move");
  EXPECT_EQ(h.dropIdleStep(again), a);
  EXPECT_TRUE(h.undoName().empty());
}

TEST(History, GivesEverySongOfALongPastBackAndEveryOneUndone) {
  for (const std::uint64_t seed : {1, 2, 3, 4}) {
    test::TwoSets t;
    test::Dice dice(seed);
    History h;
    std::vector<History::SongPtr> all{std::make_shared<const Song>(t.song)};
    std::vector<Song> copies{t.song};
    for (int i = 0; i < 300; ++i) {
      const auto next = dice.coin() ? test::clipEdit(*all.back(), dice) : test::otherEdit(*all.back(), dice);
      if (!next || *next == *all.back()) continue;
      auto song = std::make_shared<const Song>(*next);
      h.record("edit", all.back(), song, {});
      all.push_back(song);
      copies.push_back(*next);
    }
    auto now = all.back();
    all.clear();  // nobody else holds them
    for (auto k = copies.size() - 1; k-- > 0;) {
      now = h.undo(now);
      ASSERT_TRUE(now && *now == copies[k]) << "seed " << seed << " step " << k;
    }
    EXPECT_FALSE(h.undo(now));
    for (std::size_t k = 1; k < copies.size(); ++k) {
      now = h.redo(now);
      ASSERT_TRUE(now && *now == copies[k]) << "seed " << seed << " step " << k;
    }
  }
}

TEST(History, ThousandsOfEditsOfThousandsOfClipsTakeLittleRoom) {
  test::TwoSets t;
  std::vector<Frames> cuts;
  for (int i = 1; i < 2000; ++i) cuts.emplace_back(i * 240);
  auto now = std::make_shared<const Song>(*splitAt(t.song, t.bass, cuts, Frames{}));
  History h;
  const auto before = ::mallinfo2().uordblks;
  for (int i = 0; i < 3000; ++i) {
    const auto id = (*now->find(t.bass)->clips)[static_cast<std::size_t>(i * 7 % 2000)].id;
    auto next = std::make_shared<const Song>(*changeClips(*now, {id}, [&](Clip& c) { c.gainDb = -1 - i % 9; }));
    h.record("gain", now, next, {});
    now = std::move(next);
  }
  const double megabytes = static_cast<double>(::mallinfo2().uordblks - before) / 1e6;
  EXPECT_LT(megabytes, 60) << "whole lists are 1 600";
}

}  // namespace
}  // namespace ochron

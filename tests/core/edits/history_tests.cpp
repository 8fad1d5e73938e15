// Which changes are one step, without a window.

#include "edits/history.h"

#include <gtest/gtest.h>

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

}  // namespace
}  // namespace ochron

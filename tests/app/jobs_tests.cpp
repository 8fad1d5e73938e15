// Work in the background: slots, songs that change meanwhile, and hands that hold something.
#include <gtest/gtest.h>

#include <QCoreApplication>
#include <QSemaphore>
#include <QThread>
#include <algorithm>
#include <atomic>

#include "document/jobs.h"

namespace ochron {
namespace {

/// A worker that goes on only when the test says so.
struct Gate {
  QSemaphore begun;
  QSemaphore open;
  void pass() {
    begun.release();
    open.acquire();
  }
};

TEST(Jobs, OfOneSlotRunOneAfterTheOtherAndTheNewestWins) {
  Jobs jobs(nullptr);
  Gate gate;
  std::atomic<int> at{0}, most{0};
  std::vector<int> applied;
  const auto work = [&](int n) {
    return [&, n](Progress&) -> Jobs::Finish {
      most = std::max(most.load(), ++at);
      if (n == 0) gate.pass();
      --at;
      return [&, n] { applied.push_back(n); };
    };
  };
  jobs.start("", work(0), "save");
  gate.begun.acquire();
  for (int n = 1; n < 20; ++n) jobs.start("", work(n), "save");
  gate.open.release();
  jobs.finishAll();
  EXPECT_EQ(most, 1) << "never two of one slot at once";
  EXPECT_EQ(applied, std::vector<int>{19});
}

TEST(Jobs, OfOtherSlotsDoNotWait) {
  Jobs jobs(nullptr);
  Gate gate;
  bool second = false;
  jobs.start(
      "",
      [&](Progress&) -> Jobs::Finish {
        gate.pass();
        return {};
      },
      "a");
  gate.begun.acquire();
  jobs.start(
      "", [&](Progress&) -> Jobs::Finish { return [&] { second = true; }; }, "b");
  while (!second) QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
  EXPECT_TRUE(jobs.runs("a"));
  gate.open.release();
  jobs.finishAll();
}

TEST(Jobs, OfAnEarlierSongNeverReachTheNewOne) {
  Jobs jobs(nullptr);
  Gate gate;
  std::vector<QString> applied;
  const auto add = [&](const QString& name, Jobs::Scope scope) {
    jobs.start(
        "", [&, name](Progress&) -> Jobs::Finish { return [&, name] { applied.push_back(name); }; }, {}, scope);
  };
  jobs.start("", [&](Progress&) -> Jobs::Finish {
    gate.pass();
    return [&] { applied.push_back("under way"); };
  });
  gate.begun.acquire();
  add("worked, not applied", Jobs::Scope::edits);
  add("files", Jobs::Scope::files);
  jobs.start(
      "", [&](Progress&) -> Jobs::Finish { return [&] { applied.push_back("slot"); }; }, "slot");
  jobs.start(
      "", [&](Progress&) -> Jobs::Finish { return [&] { applied.push_back("waits"); }; }, "slot");
  jobs.beginSong();
  add("new", Jobs::Scope::song);
  gate.open.release();
  jobs.finishAll();
  std::sort(applied.begin(), applied.end());
  EXPECT_EQ(applied, (std::vector<QString>{"files", "new"}));
}

TEST(Jobs, WhatChangesTheSongWaitsWhileSomethingIsHeld) {
  Jobs jobs(nullptr);
  int edits = 0, shown = 0;
  jobs.holdResults(true);
  jobs.start(
      "", [&](Progress&) -> Jobs::Finish { return [&] { ++edits; }; }, {}, Jobs::Scope::edits);
  jobs.start("", [&](Progress&) -> Jobs::Finish { return [&] { ++shown; }; });
  while (shown == 0) QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents, 20);
  for (int i = 0; i < 20; ++i) QCoreApplication::processEvents(QEventLoop::AllEvents, 5);
  QThread::msleep(20);
  for (int i = 0; i < 20; ++i) QCoreApplication::processEvents(QEventLoop::AllEvents, 5);
  EXPECT_EQ(edits, 0);
  EXPECT_TRUE(jobs.busy());
  jobs.holdResults(false);
  jobs.finishAll();
  EXPECT_EQ(edits, 1);
}

TEST(Jobs, EmptyingASlotReturnsWhenNothingOfItRuns) {
  Jobs jobs(nullptr);
  Gate gate;
  std::atomic<bool> working{false};
  bool applied = false;
  jobs.start(
      "",
      [&](Progress& p) -> Jobs::Finish {
        working = true;
        gate.begun.release();
        while (!p.cancelled()) QThread::msleep(1);
        working = false;
        return [&] { applied = true; };
      },
      "autosave");
  gate.begun.acquire();
  jobs.start(
      "", [&](Progress&) -> Jobs::Finish { return [&] { applied = true; }; }, "autosave");
  jobs.emptySlot("autosave");
  EXPECT_FALSE(working);
  jobs.finishAll();
  EXPECT_FALSE(applied);
  // The slot can be used again.
  jobs.start(
      "", [&](Progress&) -> Jobs::Finish { return [&] { applied = true; }; }, "autosave");
  jobs.finishAll();
  EXPECT_TRUE(applied);
}

TEST(Jobs, CancelDropsWhatWaitsAndTheResultOfWhatRuns) {
  Jobs jobs(nullptr);
  Gate gate;
  int applied = 0;
  jobs.start(
      "visible",
      [&](Progress&) -> Jobs::Finish {
        gate.pass();
        return [&] { ++applied; };
      },
      "x");
  gate.begun.acquire();
  jobs.start(
      "visible", [&](Progress&) -> Jobs::Finish { return [&] { ++applied; }; }, "x");
  EXPECT_EQ(jobs.what(), "visible");
  jobs.cancelAll();
  gate.open.release();
  jobs.finishAll();
  EXPECT_EQ(applied, 0);
  EXPECT_TRUE(jobs.what().isEmpty());
}

TEST(Jobs, TellHowLongTheyWillTakeByTheirPace) {
  Jobs jobs(nullptr);
  Gate gate;
  jobs.start("long", [&](Progress& p) -> Jobs::Finish {
    QThread::msleep(60);
    p.report(0.5);
    gate.pass();
    return {};
  });
  gate.begun.acquire();
  const double left = jobs.secondsLeft();
  EXPECT_GT(left, 0.03);
  EXPECT_LT(left, 5);
  EXPECT_EQ(jobs.fraction(), 0.5);
  gate.open.release();
  jobs.finishAll();
  EXPECT_LT(jobs.secondsLeft(), 0);
}

}  // namespace
}  // namespace ochron

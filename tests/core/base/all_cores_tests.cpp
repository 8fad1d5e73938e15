// Work on all cores: each thing once, told as one progress, left out after a cancel.
#include "base/all_cores.h"

#include <gtest/gtest.h>

#include <atomic>
#include <vector>

namespace ochron {
namespace {

TEST(AllCores, EachIsDoneOnceAndTheWholeIsReported) {
  std::vector<std::atomic<int>> done(37);
  Progress progress;
  onAllCores(done.size(), progress, [&](std::size_t i, Progress& part) {
    part.report(0.5);
    ++done[i];
  });
  for (const auto& d : done) EXPECT_EQ(d, 1);
  Progress none;
  onAllCores(0, none, [](std::size_t, Progress&) { FAIL(); });
}

TEST(AllCores, NeverMoreAtATimeThanAsked) {
  std::atomic<int> now{0};
  std::atomic<int> most{0};
  Progress progress;
  onAllCores(
      20, progress,
      [&](std::size_t, Progress&) {
        const int here = ++now;
        for (int seen = most; seen < here && !most.compare_exchange_weak(seen, here);) continue;
        --now;
      },
      1);
  EXPECT_EQ(most, 1);
}

TEST(AllCores, AfterACancelWhatHasNotBegunIsLeftOut) {
  std::atomic<int> begun{0};
  Progress progress;
  onAllCores(
      100, progress,
      [&](std::size_t, Progress& part) {
        ++begun;
        progress.cancel();
        while (!part.cancelled()) continue;  // the calling thread hands it on
      },
      2);
  EXPECT_LE(begun, 2);
}

}  // namespace
}  // namespace ochron

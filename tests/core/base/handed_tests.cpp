// A value handed to another thread: always whole, and freed when nobody uses it any more.

#include "base/handed.h"

#include <gtest/gtest.h>

#include <array>
#include <thread>

namespace ochron {
namespace {

struct Counted {
  explicit Counted(int v) : values() {
    values.fill(v);
    ++alive;
  }
  ~Counted() {
    values.fill(-1);
    --alive;
  }
  Counted(const Counted&) = delete;
  Counted& operator=(const Counted&) = delete;
  std::array<int, 64> values;
  static inline std::atomic<int> alive{0};
};

TEST(Handed, WhatIsInUseStaysAndTheRestGoes) {
  Handed<Counted> handed;
  EXPECT_EQ(handed.use(), nullptr);
  handed.give(std::make_unique<const Counted>(1));
  const auto* first = handed.use();
  handed.give(std::make_unique<const Counted>(2));
  handed.give(std::make_unique<const Counted>(3));
  EXPECT_EQ(first->values[5], 1);
  EXPECT_EQ(handed.alive(), 2U) << "the one in use and the newest";
  EXPECT_EQ(handed.use()->values[0], 3);
  handed.leave();
  handed.give(nullptr);
  EXPECT_FALSE(handed.any());
  EXPECT_EQ(handed.alive(), 0U);
  EXPECT_EQ(Counted::alive, 0);
}

TEST(Handed, AnotherThreadNeverSeesOneThatWasFreedOrIsHalfDone) {
  Handed<Counted> handed;
  std::atomic<bool> done{false};
  std::atomic<int> wrong{0};
  std::thread reader([&] {
    int last = 0;
    while (!done) {
      if (const auto* v = handed.use()) {
        const int one = v->values[0];
        for (const int x : v->values) wrong += x != one || x < last ? 1 : 0;
        last = one;
      }
      handed.leave();
    }
  });
  for (int i = 1; i <= 20'000; ++i) handed.give(std::make_unique<const Counted>(i));
  done = true;
  reader.join();
  handed.collect();
  EXPECT_EQ(wrong, 0);
  EXPECT_EQ(handed.alive(), 1U);
}

}  // namespace
}  // namespace ochron

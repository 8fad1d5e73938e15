// Pieces laid over a recording: as patches they are heard like the same put into a copy, one after the other.

#include "render/laid_over.h"

#include <gtest/gtest.h>

#include <random>

#include "render/moved_sound.h"

namespace ochron {
namespace {

struct OverARecording : ::testing::Test {
  std::mt19937 random{11};
  std::vector<float> raw = noise(20'000);
  std::deque<std::vector<float>> owned;

  std::vector<float> noise(std::size_t n) {
    std::uniform_real_distribution<float> value(-1, 1);
    std::vector<float> out(n);
    for (auto& v : out) v = value(random);
    return out;
  }
  std::size_t upTo(std::size_t most) { return std::uniform_int_distribution<std::size_t>(0, most)(random); }
  /// A window of the recording that is other sound somewhere in its middle.
  std::vector<float> window(std::int64_t at, std::size_t n) {
    std::vector<float> out(n);
    Samples(raw).readAround(at, out);
    const auto first = upTo(n / 2);
    const auto other = noise(upTo(n - first - 1));
    std::copy(other.begin(), other.end(), out.begin() + static_cast<std::ptrdiff_t>(first));
    return out;
  }
};

TEST_F(OverARecording, WindowsSoundLikeInACopyWhereverTheyOverlap) {
  for (int round = 0; round < 50; ++round) {
    owned.clear();
    LaidOver over(raw);
    auto copy = raw;
    std::deque<std::vector<float>> windows;
    for (int i = 0; i < 12; ++i) {
      const auto at = static_cast<std::int64_t>(upTo(21'000)) - 500;
      const auto& w = windows.emplace_back(window(at, 50 + upTo(2'000)));
      layWindow(w, Frames{at}, raw, copy);
      over.add(at, Samples(w));
    }
    const PatchedSamples patched(Samples(raw), over.patches(owned));
    ASSERT_TRUE(Samples(patched).copy() == copy) << round;
  }
}

TEST_F(OverARecording, OnlyWhatOverlapsIsCopied) {
  const auto a = window(100, 500);
  const auto b = window(900, 500);
  LaidOver over(raw);
  over.add(100, Samples(a));
  over.add(900, Samples(b));
  over.add(5'000, Samples(raw).subspan(5'000, 300));
  const auto patches = over.patches(owned);
  EXPECT_EQ(patches.size(), 2U) << "what is like the recording is none";
  EXPECT_TRUE(owned.empty());
}

TEST_F(OverARecording, WhatIsWorkedOutGetsTheRecordingUnderIt) {
  LaidOver over(raw);
  for (const std::int64_t begin : {-50, 60, 19'950})
    over.add(begin, begin + 100, [](std::int64_t, std::span<const float> under, std::span<float> to) {
      for (std::size_t i = 0; i < to.size(); ++i) to[i] -= under[i] / 4;
    });
  const PatchedSamples patched(Samples(raw), over.patches(owned));
  const Samples heard(patched);
  EXPECT_FLOAT_EQ(heard[10], raw[10] * 0.75F);
  EXPECT_EQ(heard[55], raw[55]);
  EXPECT_FLOAT_EQ(heard[19'999], raw[19'999] * 0.75F);
}

}  // namespace
}  // namespace ochron

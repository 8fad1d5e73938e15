// Sound that is another one's but for some stretches reads like a copy with these put in.

#include "dsp/patched_samples.h"

#include <gtest/gtest.h>

#include <random>

namespace ochron {
namespace {

struct Patched : ::testing::Test {
  std::mt19937 random{7};
  std::vector<float> base = noise(5'000);
  std::vector<float> first = noise(400);
  std::vector<float> second = noise(1);
  std::vector<float> third = noise(900);
  PatchedSamples patched{base, {{0, Samples(first)}, {400, Samples(second)}, {4'100, Samples(third)}}};
  std::vector<float> flat = copied();

  std::vector<float> noise(std::size_t n) {
    std::uniform_real_distribution<float> value(-1, 1);
    std::vector<float> out(n);
    for (auto& v : out) v = value(random);
    return out;
  }
  std::vector<float> copied() const {
    auto out = base;
    std::copy(first.begin(), first.end(), out.begin());
    out[400] = second[0];
    std::copy(third.begin(), third.end(), out.begin() + 4'100);
    return out;
  }
};

TEST_F(Patched, ReadLikeACopy) {
  const Samples samples(patched);
  ASSERT_EQ(samples.size(), flat.size());
  EXPECT_FALSE(samples.plain());
  EXPECT_TRUE(samples.copy() == flat);
  for (std::size_t i = 0; i < flat.size(); ++i) ASSERT_EQ(samples[i], flat[i]) << i;
}

TEST_F(Patched, PartsOfThemReadLikePartsOfACopyBothWays) {
  const Samples samples(patched);
  const Samples like(flat);
  std::uniform_int_distribution<std::size_t> place(0, flat.size() - 1);
  for (int round = 0; round < 500; ++round) {
    const auto from = place(random);
    const auto n = std::min(place(random), flat.size() - from);
    const auto back = std::min(n, from + 1);
    ASSERT_TRUE(samples.subspan(from, n).copy() == like.subspan(from, n).copy()) << from << " " << n;
    const auto turned = samples.subspan(from, back, -1);
    const auto likeTurned = like.subspan(from, back, -1);
    ASSERT_TRUE(turned.copy() == likeTurned.copy()) << from << " " << back;
    if (back > 3) {
      ASSERT_TRUE(turned.subspan(2, back - 3).copy() == likeTurned.subspan(2, back - 3).copy());
      ASSERT_TRUE(turned.subspan(back - 1, back - 1, -1).copy() == likeTurned.subspan(back - 1, back - 1, -1).copy());
      ASSERT_EQ(turned[back / 2], likeTurned[back / 2]);
    }
  }
}

TEST_F(Patched, ArePatchedAgain) {
  const Samples once(patched);
  const PatchedSamples twice(once, {{200, Samples(third)}});
  std::copy(third.begin(), third.end(), flat.begin() + 200);
  EXPECT_TRUE(Samples(twice).copy() == flat);
}

TEST_F(Patched, AreSilentWhereThereIsNothing) {
  std::vector<float> out(64, 1);
  Samples(patched).readAround(-32, out);
  EXPECT_EQ(out[31], 0);
  EXPECT_EQ(out[32], first[0]);
}

}  // namespace
}  // namespace ochron

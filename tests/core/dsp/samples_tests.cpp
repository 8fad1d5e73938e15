// Samples are read the same by every way of reading, however they are coded and in whichever direction.
#include "dsp/samples.h"

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <limits>
#include <random>

namespace ochron {
namespace {

struct Lying {
  SampleCoding coding;
  std::size_t channels;
};
std::ostream& operator<<(std::ostream& out, const Lying& l) {
  return out << "coding " << static_cast<int>(l.coding) << ", " << l.channels << " channels";
}
class ReadSamples : public ::testing::TestWithParam<Lying> {
 protected:
  ReadSamples() : bytes(1 + kFrames * frameBytes()) {
    std::mt19937 dice(4);
    for (auto& b : bytes) b = static_cast<char>(dice());
  }
  std::size_t frameBytes() const { return bytesOf(GetParam().coding) * GetParam().channels; }
  /// Of the last channel; one byte off, as data in a file may be.
  Samples samples() const {
    return {bytes.data() + 1 + bytesOf(GetParam().coding) * (GetParam().channels - 1), GetParam().coding, frameBytes(),
            kFrames};
  }
  static constexpr std::size_t kFrames = 700;
  std::vector<char> bytes;
};

std::uint32_t bits(float v) { return std::bit_cast<std::uint32_t>(v); }

TEST_P(ReadSamples, AreTheSameOneByOneInBlocksAndBackwards) {
  const auto all = samples();
  const auto copy = all.copy();
  ASSERT_EQ(copy.size(), kFrames);
  for (std::size_t i = 0; i < kFrames; ++i) ASSERT_EQ(bits(all[i]), bits(copy[i])) << i;
  std::mt19937 dice(8);
  std::vector<float> room;
  for (int round = 0; round < 200; ++round) {
    const auto at = dice() % kFrames;
    const auto forwards = all.subspan(at, dice() % (kFrames - at + 1));
    const auto x = forwards.in(room);
    ASSERT_EQ(x.size(), forwards.size());
    for (std::size_t i = 0; i < x.size(); ++i) ASSERT_EQ(bits(x[i]), bits(copy[at + i]));
    const auto backwards = all.subspan(at, dice() % (at + 1) + 1, -1);
    const auto y = backwards.in(room);
    for (std::size_t i = 0; i < y.size(); ++i) ASSERT_EQ(bits(y[i]), bits(copy[at - i]));
    const auto again = backwards.subspan(backwards.size() - 1, backwards.size(), -1).copy();
    for (std::size_t i = 0; i < again.size(); ++i)
      ASSERT_EQ(bits(again[i]), bits(copy[at + 1 - again.size() + i])) << "turned round twice";
  }
}

INSTANTIATE_TEST_SUITE_P(Codings, ReadSamples,
                         ::testing::Values(Lying{SampleCoding::float32, 1}, Lying{SampleCoding::float32, 2},
                                           Lying{SampleCoding::pcm16, 1}, Lying{SampleCoding::pcm16, 2},
                                           Lying{SampleCoding::pcm24, 1}, Lying{SampleCoding::pcm24, 3},
                                           Lying{SampleCoding::pcm32, 1}, Lying{SampleCoding::pcm32, 2}));

TEST(Samples, FloatsInMemoryAreReadWhereTheyAre) {
  const std::vector<float> x{0.5F, -1, 3};
  std::vector<float> room;
  EXPECT_EQ(Samples(x).in(room).data(), x.data());
  EXPECT_EQ(Samples(x).subspan(1, 2).in(room).data(), x.data() + 1);
  EXPECT_FALSE(Samples(x).subspan(2, 3, -1).plain());
  EXPECT_EQ(Samples(x).subspan(2, 3, -1).copy(), (std::vector<float>{3, -1, 0.5F}));
  EXPECT_TRUE(Samples().empty() && Samples().copy().empty());
}

TEST(Samples, WholeNumbersAreSharesOfFullScale) {
  const std::array<unsigned char, 9> three{0x00, 0x00, 0x80, 0xff, 0xff, 0x7f, 0x01, 0x00, 0x00};
  const Samples x(reinterpret_cast<const char*>(three.data()), SampleCoding::pcm24, 3, 3);
  EXPECT_EQ(x[0], -1.0F);
  EXPECT_EQ(x[1], 1.0F - 0x1p-23F);
  EXPECT_EQ(x[2], 0x1p-23F);
}

TEST(Samples, WhatIsNoNumberIsFoundWhereverItStands) {
  std::vector<float> x(1'000, 0.25F);
  EXPECT_TRUE(allFinite(x));
  EXPECT_TRUE(allFinite({}));
  x[3] = std::numeric_limits<float>::denorm_min();
  x[4] = std::numeric_limits<float>::max();
  EXPECT_TRUE(allFinite(x));
  for (const float bad :
       {std::nanf(""), std::numeric_limits<float>::infinity(), -std::numeric_limits<float>::infinity()})
    for (const std::size_t at : {std::size_t{0}, std::size_t{513}, std::size_t{999}}) {
      auto y = x;
      y[at] = bad;
      EXPECT_FALSE(allFinite(y)) << bad << " at " << at;
    }
}

}  // namespace
}  // namespace ochron

// What lies between two pins that are far apart is made block by block: however long it is, little of it is in memory,
// it can be cancelled on the way, and it is the same wherever it is kept.

#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <random>
#include <tuple>

#include "render/made_store.h"
#include "render/splices.h"
#include "render/stretched.h"
#include "render/tone_run.h"
#include "support/scratch.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;

constexpr int kLongRate = 48'000;
constexpr std::int64_t kLongTake = 20 * kLongRate;

/// A clip of twenty seconds of two mics with a pin at each end.
struct LongPart {
  Voices voices;
  Clip clip;
  MadePart part;

  LongPart(StretchMethod method, double ratio) {
    std::mt19937 dice(11);
    std::uniform_real_distribution<float> noise(-0.4F, 0.4F);
    std::vector<std::vector<float>> mics(2, std::vector<float>(static_cast<std::size_t>(kLongTake)));
    for (std::size_t i = 0; i < mics[0].size(); ++i) {
      const auto since = static_cast<double>(i % 24'000);
      const auto t = static_cast<double>(i) / kLongRate;
      mics[0][i] =
          static_cast<float>(0.2 * std::sin(1'400 * t)) + noise(dice) * static_cast<float>(std::exp(-since / 900));
      mics[1][i] = 0.5F * mics[0][i];
    }
    voices.rate = kLongRate;
    voices.method = method;
    voices.digest = 77;
    voices.lasting = true;
    for (auto& m : mics)
      voices.list.push_back({MediaId{1}, DecodedMedia::fromSamples(kLongRate, {std::move(m)}), 0, f(0)});
    clip.map = TakeMap({{f(0), f(0)}, {f(kLongTake), f(std::llround(ratio * kLongTake))}});
    part = madeParts(clip, {f(0), f(kLongTake)}, voices).at(0);
  }
};

class LongParts : public testing::TestWithParam<std::tuple<StretchMethod, double>> {
 protected:
  LongPart long_{std::get<0>(GetParam()), std::get<1>(GetParam())};
};

TEST_P(LongParts, ComeInBlocksAndAreAsLongAsTheirPinsSay) {
  std::int64_t most = 0;
  std::int64_t all = 0;
  const StreamSink sink = [&](ChannelSpans sound) {
    EXPECT_EQ(sound.size(), 2u);
    most = std::max(most, std::ssize(sound.front()));
    all += std::ssize(sound.front());
    return true;
  };
  const auto& pins = long_.clip.map.pins();
  switch (long_.voices.method) {
    case StretchMethod::drums: EXPECT_TRUE(betweenPins(pins[0], pins[1], long_.voices, sink)); break;
    case StretchMethod::tape: EXPECT_TRUE(atSpeed(pins[0], pins[1], long_.voices, sink)); break;
    default: EXPECT_TRUE(throughPins(pins, long_.voices, sink));
  }
  EXPECT_EQ(all, long_.part.range.length().value);
  EXPECT_LE(most, 16'384);
}

TEST_P(LongParts, AreTheSameInMemoryAndOnTheDisk) {
  const test::Scratch scratch;
  MadeStore disk(scratch / "made");
  MadeStore memory;
  const auto a = makePart(long_.clip, long_.part, long_.voices, disk);
  const auto b = makePart(long_.clip, long_.part, long_.voices, memory);
  ASSERT_TRUE(a && b);
  ASSERT_EQ(a->length(), long_.part.range.length());
  for (int c = 0; c < 2; ++c) ASSERT_TRUE(a->channel(c).copy() == b->channel(c).copy()) << c;
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(scratch / "made"), {}), 1);
}

TEST_P(LongParts, EndOnTheWayAndLeaveNothingBehind) {
  const test::Scratch scratch;
  for (const bool onDisk : {true, false}) {
    MadeStore store = onDisk ? MadeStore(scratch / "made") : MadeStore();
    double reached = 0;
    const auto going = [&](double share) {
      EXPECT_TRUE(share > reached || share == 0) << "what is asked again is not told as more";
      reached = share;
      return share < 0.4;
    };
    EXPECT_EQ(makePart(long_.clip, long_.part, long_.voices, store, going), nullptr);
    EXPECT_GE(reached, 0.4);
    EXPECT_LT(reached, 0.6);
    EXPECT_EQ(store.atHand(long_.part.key), nullptr);
    EXPECT_EQ(store.timesKept(), 0u);
  }
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(scratch / "made"), {}), 0);
}

TEST_P(LongParts, AreMadeInMemoryWhereTheDiskTakesNothing) {
  const test::Scratch scratch;
  std::ofstream(scratch / "made") << "a file where the folder should be";
  MadeStore store(scratch / "made");
  const auto sound = makePart(long_.clip, long_.part, long_.voices, store);
  ASSERT_TRUE(sound);
  EXPECT_EQ(sound->length(), long_.part.range.length());
}

TEST_P(LongParts, BothMicsStayInStep) {
  MadeStore store;
  const auto sound = makePart(long_.clip, long_.part, long_.voices, store);
  const auto near = sound->channel(0).copy();
  const auto far = sound->channel(1).copy();
  for (std::size_t i = 0; i < near.size(); ++i) ASSERT_NEAR(far[i], 0.5F * near[i], 2e-6) << i;
}

TEST_P(LongParts, OfRecordingsWhoseContentIsNotKnownHaveNoNameOnTheDisk) {
  const test::Scratch scratch;
  MadeStore store(scratch / "made");
  long_.part.key.lasting = false;
  const auto sound = makePart(long_.clip, long_.part, long_.voices, store);
  ASSERT_TRUE(sound);
  EXPECT_EQ(store.find(long_.part.key), sound);
  EXPECT_TRUE(store.stillAsKept());
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(scratch / "made"), {}), 0);
  EXPECT_EQ(MadeStore(scratch / "made").find(long_.part.key), nullptr);
}

INSTANTIATE_TEST_SUITE_P(OfEveryKind, LongParts,
                         testing::Values(std::tuple{StretchMethod::drums, 1.002}, std::tuple{StretchMethod::drums, 1.4},
                                         std::tuple{StretchMethod::tape, 0.97},
                                         std::tuple{StretchMethod::chords, 1.1}));

TEST(LongPart, IsEndedWhileItsJumpsAreLookedForBeforeAnythingIsMade) {
  const LongPart part(StretchMethod::drums, 1.002);
  MadeStore store;
  int asked = 0;
  const auto going = [&](double share) {
    EXPECT_EQ(share, 0);
    return ++asked < 20;
  };
  EXPECT_EQ(makePart(part.clip, part.part, part.voices, store, going), nullptr);
  EXPECT_EQ(asked, 20);
}

TEST(Splices, OfALongSoundLieNearTheMiddleOfWhatEachMakesUpFor) {
  const LongPart part(StretchMethod::drums, 1.01);
  const auto source = [&](std::size_t from, ChannelSpans channels) {
    for (std::size_t c = 0; c < channels.size(); ++c)
      part.voices.list[c].read(f(static_cast<std::int64_t>(from)), channels[c]);
  };
  const auto splices =
      splicesFor({source, 2, kLongTake, kLongRate}, 4'000, {f(2'000), f(kLongTake - 2'000)}, [] { return true; });
  ASSERT_TRUE(splices);
  ASSERT_EQ(splices->size(), 3u);
  std::int64_t gained = 0;
  for (std::size_t i = 0; i < 3; ++i) {
    const auto middle = 2'000 + (kLongTake - 4'000) * static_cast<std::int64_t>(2 * i + 1) / 6;
    EXPECT_LT(std::abs((*splices)[i].at - middle), kLongRate) << i;
    gained += (*splices)[i].at - (*splices)[i].to;
  }
  EXPECT_EQ(gained, 4'000);
}

}  // namespace
}  // namespace ochron

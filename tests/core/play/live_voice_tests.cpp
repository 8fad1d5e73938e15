// Sounds struck by hand: within the block, at their strength, ended without a step, freed once they are done.

#include "play/live_voices.h"

#include <gtest/gtest.h>

#include <array>
#include <cmath>

#include "play/engine.h"

namespace ochron {
namespace {

std::shared_ptr<LiveBank> bankOf(std::size_t sounds, std::size_t frames, int choke = 0) {
  auto bank = std::make_shared<LiveBank>();
  for (std::size_t i = 0; i < sounds; ++i)
    bank->sounds.push_back({{std::vector<float>(frames, 0.1F * static_cast<float>(i + 1))}, 1, 0, choke});
  return bank;
}

struct Block {
  std::array<std::vector<float>, 2> sides{std::vector<float>(64), std::vector<float>(64)};
  void play(Engine& engine) { engine.process(sides[0], sides[1]); }
};

TEST(LiveVoices, AStrikeIsHeardFromTheNextBlocksFirstFrameOnWithoutASongPlaying) {
  Engine engine(48'000);
  engine.setBank(bankOf(3, 1000));
  Block b;
  b.play(engine);
  EXPECT_EQ(b.sides[0][0], 0);
  engine.strike(1, 0.5);
  b.play(engine);
  for (const auto& side : b.sides)
    for (const float v : side) EXPECT_FLOAT_EQ(v, 0.1F);
}

TEST(LiveVoices, ATimedStrikeIsHeardAtItsFrame) {
  Engine engine(48'000);
  engine.setBank(bankOf(1, 1000));
  Block b;
  b.play(engine);
  engine.send({command::Strike{0, 1}, engine.clock() + 17});
  b.play(engine);
  for (std::size_t i = 0; i < 64; ++i) EXPECT_FLOAT_EQ(b.sides[0][i], i < 17 ? 0 : 0.1F) << i;
}

TEST(LiveVoices, ASoundOfTheSameGroupEndsTheOtherWithoutAStep) {
  LiveVoices live(48'000);
  live.use(live.give(bankOf(2, 4000, 7)));
  live.strike(0, 1);
  std::vector<float> left(1000);
  std::vector<float> right(1000);
  live.add(left, right);
  live.strike(1, 1);
  std::vector<float> after(1000);
  live.add(after, right);
  for (std::size_t i = 1; i < after.size(); ++i) EXPECT_LT(std::abs(after[i] - after[i - 1]), 0.01F) << i;
  EXPECT_FLOAT_EQ(after.back(), 0.2F) << "only the later one sounds on";
}

TEST(LiveVoices, MoreThanThereAreVoicesForTakeThePlaceOfTheOldest) {
  LiveVoices live(48'000);
  live.use(live.give(bankOf(200, 4000)));
  for (int i = 0; i < 200; ++i) live.strike(i, 1);
  std::vector<float> left(10);
  std::vector<float> right(10);
  live.add(left, right);
  double expected = 0;
  for (int i = 72; i < 200; ++i) expected += 0.1 * (i + 1);
  EXPECT_NEAR(left[0], expected, 0.01 * expected);
}

TEST(LiveVoices, ABankIsFreedOnceNothingOfItSoundsAndAnotherIsInUse) {
  LiveVoices live(48'000);
  std::weak_ptr<const LiveBank> gone;
  {
    auto bank = bankOf(1, 500);
    gone = bank;
    live.use(live.give(std::move(bank)));
  }
  live.strike(0, 1);
  live.use(live.give(bankOf(1, 10)));
  live.collect();
  EXPECT_FALSE(gone.expired()) << "it still sounds";
  std::vector<float> left(600);
  std::vector<float> right(600);
  live.add(left, right);
  live.collect();
  EXPECT_TRUE(gone.expired());
  EXPECT_EQ(live.alive(), 1U);
}

TEST(LiveVoices, WhatIsNoSoundOfTheBankIsSilent) {
  LiveVoices live(48'000);
  live.strike(0, 1);
  live.use(live.give(bankOf(1, 10)));
  live.strike(-1, 1);
  live.strike(1, 1);
  EXPECT_FALSE(live.sounding());
}

}  // namespace
}  // namespace ochron

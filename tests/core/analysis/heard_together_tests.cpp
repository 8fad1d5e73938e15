// What one wide mic would not be believed, two are.
#include "analysis/drums/heard_together.h"

#include <gtest/gtest.h>

#include "support/made_mic.h"

namespace ochron {
namespace {

using test::counting;
using test::kRate;

MicHearing hearing(std::initializer_list<std::pair<std::int64_t, double>> strokes, bool close = false) {
  MicHearing out;
  out.hears = MicHears::everything;
  for (const auto& [at, sure] : strokes) {
    MicStroke s;
    s.at = Frames{at};
    s.sure = sure;
    s.close = close;
    out.strokes.push_back(s);
  }
  return out;
}

TEST(HeardTogether, TwoDoubtsAtOnceAreSure) {
  std::vector mics{hearing({{1000, -0.15}, {9000, -0.05}}), hearing({{1100, -0.1}, {9400, -0.05}})};
  believeTogether(mics, kRate);
  EXPECT_GT(mics[0].strokes[0].sure, 0);
  EXPECT_GT(mics[1].strokes[0].sure, 0);
  EXPECT_DOUBLE_EQ(mics[0].strokes[1].sure, -0.05) << "8 ms apart they are two sounds";
  EXPECT_DOUBLE_EQ(mics[1].strokes[1].sure, -0.05);
}

TEST(HeardTogether, BothMayFallShortByOnlySoMuch) {
  std::vector mics{hearing({{1000, -0.3}}), hearing({{1000, -0.1}})};
  believeTogether(mics, kRate);
  EXPECT_DOUBLE_EQ(mics[0].strokes[0].sure, -0.3);
  EXPECT_DOUBLE_EQ(mics[1].strokes[0].sure, -0.1);
  // How sure the other is by itself counts for no more than that it heard it.
  mics = {hearing({{1000, -0.4}}), hearing({{1000, 1}})};
  believeTogether(mics, kRate);
  EXPECT_DOUBLE_EQ(mics[0].strokes[0].sure, -0.4);
  mics[0].strokes[0].sure = -0.3;
  believeTogether(mics, kRate);
  EXPECT_GT(mics[0].strokes[0].sure, 0);
  EXPECT_DOUBLE_EQ(mics[1].strokes[0].sure, 1) << "what is sure stays so";
}

TEST(HeardTogether, AThirdMicDoesNotMakeItSurerThanTwo) {
  std::vector two{hearing({{1000, -0.1}}), hearing({{1000, -0.1}})};
  std::vector three{two[0], two[1], hearing({{1000, -0.15}})};
  believeTogether(two, kRate);
  believeTogether(three, kRate);
  EXPECT_DOUBLE_EQ(two[0].strokes[0].sure, three[0].strokes[0].sure);
}

TEST(HeardTogether, CloseMicsInstrumentsAndMicsThatAreNoGuidesAreLeftOut) {
  for (int which = 0; which < 3; ++which) {
    std::vector mics{hearing({{1000, -0.1}}), hearing({{1000, -0.1}}, which == 0)};
    if (which == 1) mics[1].soundsOn = true;
    if (which == 2) mics[1].guide = false;
    believeTogether(mics, kRate);
    for (const auto& m : mics) EXPECT_DOUBLE_EQ(m.strokes[0].sure, -0.1) << which;
  }
}

TEST(HeardTogether, RoomsHearTheSameEchoesAndAreNotBelievedForIt) {
  std::vector mics{hearing({{1000, -0.1}}), hearing({{1000, -0.1}})};
  for (auto& m : mics) m.hears = MicHears::room;
  believeTogether(mics, kRate);
  for (const auto& m : mics) EXPECT_DOUBLE_EQ(m.strokes[0].sure, -0.1);
}

TEST(HeardTogether, WhatOnlyARoomHearsDoesNotCountWhereMicsAreNear) {
  auto room = hearing({{4000, 0.4}, {40'000, 0.4}, {80'000, 0.4}, {120'000, 0.4}});
  room.hears = MicHears::room;
  // A snare's own mic hears the first 12 ms before, an overhead the second, faintly; the third is 40 ms late.
  std::vector mics{room, hearing({{3424, 0.5}}, true), hearing({{39'424, -0.2}, {78'080, 0.5}})};
  believeTogether(mics, kRate);
  EXPECT_DOUBLE_EQ(mics[0].strokes[0].sure, 0.4);
  EXPECT_DOUBLE_EQ(mics[0].strokes[1].sure, 0.4);
  EXPECT_LT(mics[0].strokes[2].sure, 0);
  EXPECT_LT(mics[0].strokes[3].sure, 0);
  std::vector rooms{room};
  believeTogether(rooms, kRate);
  for (const auto& s : rooms[0].strokes) EXPECT_DOUBLE_EQ(s.sure, 0.4) << "alone it has to do";
}

TEST(HeardTogether, ASoftRideOverARingingKitCountsWhenBothOverheadsHearIt) {
  // Each mic's own hiss has attacks of its own; by itself it hears less than half of the rides.
  test::Take left(24, -42), right(24, -42);
  right.dice.seed(99);
  std::normal_distribution<float> hiss(0, static_cast<float>(std::pow(10, -42.0 / 20)));
  for (auto& s : right.samples) s = hiss(right.dice);
  std::vector<Frames> truth;
  for (int i = 0; i < 40; ++i) {
    const std::int64_t at = 24'000 + i * 26'000;
    if (i % 4 == 0)
      left.snare(at), right.snare(at + 40);
    else
      left.hit(at, 6000, 60, 0.5, 0.04), right.hit(at + 60, 6000, 60, 0.5, 0.032);
    truth.emplace_back(at);
  }
  std::vector<Frames> found;
  for (const auto& o : counting({{left.samples, {}, MicHears::everything}, {right.samples, {}, MicHears::everything}}))
    found.push_back(o.at);
  const auto score = test::compare(truth, found, kRate, 5);
  EXPECT_GE(score.precision, 0.95);
  EXPECT_GE(score.recall, 0.95);
}

TEST(Beside, ARoomThatRingsIsAnInstrumentButNotBesideADrumsOwnMic) {
  test::Take room(20);
  for (int i = 0; i < 18; ++i) {
    const std::int64_t at = 24'000 + i * 48'000;
    room.hit(at, 400, 10, 0.5, 0.25);
    for (std::int64_t k = 0; k < 43'200; ++k) {
      const double t = static_cast<double>(k) / kRate;
      room.samples[static_cast<std::size_t>(at + k)] += static_cast<float>(
          0.7 * std::exp(-t / 0.5) * std::min(1.0, (0.9 - t) / 0.2) * std::sin(2 * M_PI * (i % 2 ? 190 : 90) * t));
    }
  }
  Progress progress;
  const GuideSignal alone{room.samples, {}, MicHears::room};
  EXPECT_TRUE(listenTo(alone, 0, {.guides = true, .drums = false}, kRate, progress).soundsOn);
  const auto beside = listenTo(alone, 0, {.guides = true, .drums = true}, kRate, progress);
  EXPECT_FALSE(beside.soundsOn);
  EXPECT_EQ(std::count_if(beside.strokes.begin(), beside.strokes.end(), [](auto& s) { return s.sure > 0; }), 18);
}

}  // namespace
}  // namespace ochron

// Clips stretched by hand or by a plan are edited like any other: what an edit does not touch sounds as before, to the
// bit, and nothing is made twice.

#include <gtest/gtest.h>

#include <algorithm>
#include <random>

#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "support/scratch.h"
#include "support/two_sets.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;

/// The kit's clip stretched by hand: slower, faster, as recorded, and with a stretch too short for the engine.
struct Stretched : test::TwoSets {
  MadeStore made;

  Stretched() {
    ClipList clips = *song.find(kit)->clips;
    clips[0].map = TakeMap({{f(20'000), f(20'000)},
                            {f(100'000), f(112'000)},
                            {f(150'000), f(155'000)},
                            {f(150'400), f(155'600)},
                            {f(200'400), f(205'600)},
                            {f(300'000), f(290'000)}});
    clips[0].length = f(400'000);
    song.sets[0].clips = clips;
    EXPECT_EQ(song.sets[0].id, kit);
    EXPECT_TRUE(brokenRules(song).empty());
  }
  /// The kit's second mic, with all that has to be made.
  std::vector<float> heardOf(const Song& s, std::int64_t frames = 420'000) {
    Progress progress;
    EXPECT_TRUE(makeMissing(s, pool, made, f(0), progress));
    const auto plan = compilePlan(s, pool, nullptr, &made);
    EXPECT_FALSE(plan.preview);
    std::vector<float> out(static_cast<std::size_t>(frames), 0.0F);
    addSegments(*plan.tracks[1].channels[0], f(0), out);
    return out;
  }
};

void expectSame(const std::vector<float>& a, const std::vector<float>& b, FrameRange in) {
  for (auto i = in.start.value; i < in.end.value; ++i)
    ASSERT_EQ(a[static_cast<std::size_t>(i)], b[static_cast<std::size_t>(i)]) << "frame " << i;
}

TEST(StretchedEdits, PinsAreHeardWhereTheyStandAndWhatLiesBetweenHasNoHole) {
  Stretched t;
  const auto out = t.heardOf(t.song);
  const auto& sound = t.sound(t.song.tracks[1].id);
  for (const auto& pin : t.song.find(t.kitClip)->map.pins())
    for (std::int64_t k = 0; k < 150; ++k)
      ASSERT_EQ(out[static_cast<std::size_t>(pin.stretched.value + k)],
                sound[static_cast<std::size_t>(pin.take.value + k)])
          << pin.stretched.value << " " << k;
  expectSame(out, std::vector<float>(sound.begin(), sound.begin() + 20'000), {f(0), f(20'000)});
  for (std::int64_t at = 0; at + 480 < 400'000; at += 480) {
    double sum = 0;
    for (std::int64_t i = at; i < at + 480; ++i)
      sum += static_cast<double>(out[static_cast<std::size_t>(i)]) * out[static_cast<std::size_t>(i)];
    ASSERT_GT(sum, 0.0) << "silence at " << at;
  }
}

TEST(StretchedEdits, ACutIsNotHeardAndMakesNothing) {
  Stretched t;
  const auto before = t.heardOf(t.song);
  const auto parts = t.made.timesKept();
  std::mt19937_64 dice(7);
  std::vector<Frames> places;
  places.reserve(25);
  for (int i = 0; i < 25; ++i) places.push_back(f(1 + static_cast<std::int64_t>(dice() % 399'000)));
  const auto cut = splitAt(t.song, t.kit, places, f(0));
  ASSERT_TRUE(cut) << cut.error().message;
  EXPECT_TRUE(brokenRules(*cut).empty());
  EXPECT_EQ(t.heardOf(*cut), before);
  EXPECT_EQ(t.made.timesKept(), parts);
  // With crossfades each side needs what lies under them; outside them it is the same to the bit.
  const auto faded = splitAt(t.song, t.kit, {f(60'000), f(155'200)}, f(2000));
  ASSERT_TRUE(faded);
  const auto out = t.heardOf(*faded);
  expectSame(out, before, {f(0), f(59'000)});
  expectSame(out, before, {f(61'000), f(154'200)});
  expectSame(out, before, {f(156'200), f(400'000)});
  for (std::size_t i = 59'000; i < 61'000; ++i) ASSERT_NEAR(out[i], before[i], 1e-6);
  EXPECT_EQ(t.made.timesKept(), parts);
}

TEST(StretchedEdits, WhatIsMovedTrimmedSlippedAndPutBackSoundsAsBefore) {
  Stretched t;
  const auto cut = *splitAt(t.song, t.kit, {f(80'000), f(155'200), f(240'000)}, f(0));
  const auto before = t.heardOf(cut);
  const auto parts = t.made.timesKept();
  const auto ids = test::idsOf(cut, t.kit);
  ASSERT_EQ(ids.size(), 4u);
  const ClipIds third{ids[2]};
  const auto moved = moveClips(cut, third, f(170'000));
  ASSERT_TRUE(moved) << moved.error().message;
  const auto out = t.heardOf(*moved, 600'000);
  expectSame(out, before, {f(0), f(155'200)});
  for (std::size_t i = 0; i < 84'800; ++i) ASSERT_EQ(out[325'200 + i], before[155'200 + i]) << i;
  const auto trimmed = trimStarts(cut, third, f(5000));
  ASSERT_TRUE(trimmed);
  expectSame(t.heardOf(*trimmed), before, {f(160'200), f(400'000)});
  EXPECT_EQ(t.heardOf(*trimStarts(*trimmed, third, f(-5000))), before);
  const auto shorter = trimEnds(cut, third, f(-7000));
  ASSERT_TRUE(shorter);
  EXPECT_EQ(t.heardOf(*trimEnds(*shorter, third, f(7000))), before);
  const auto slipped = slipClips(cut, third, f(3000));
  ASSERT_TRUE(slipped);
  EXPECT_NE(*slipped, cut);
  expectSame(t.heardOf(*slipped), before, {f(0), f(155'200)});
  EXPECT_EQ(t.heardOf(*slipClips(*slipped, third, f(-3000))), before);
  EXPECT_EQ(t.made.timesKept(), parts) << "all of it is one stretched take";
}

TEST(StretchedEdits, BackwardsIsTheMirrorOfForwards) {
  Stretched t;
  const auto cut = *splitAt(t.song, t.kit, {f(80'000), f(240'000)}, f(0));
  const auto before = t.heardOf(cut);
  const auto parts = t.made.timesKept();
  const ClipIds second{test::idsOf(cut, t.kit)[1]};
  const auto turned = reverseClips(cut, second);
  ASSERT_TRUE(turned) << turned.error().message;
  EXPECT_TRUE(brokenRules(*turned).empty());
  const auto out = t.heardOf(*turned);
  for (std::size_t i = 0; i < 160'000; ++i) ASSERT_EQ(out[80'000 + i], before[239'999 - i]) << i;
  EXPECT_EQ(t.heardOf(*reverseClips(*turned, second)), before);
  EXPECT_EQ(t.made.timesKept(), parts);
}

TEST(StretchedEdits, APitchEnvelopeIsCutWithoutBeingHeardOrMadeAnew) {
  Stretched t;
  t.song = *setEnvelope(t.song, {EnvelopeKind::clipPitch, {}, t.kitClip}, {{f(0), 0, 0}, {f(300'000), 300, 0}});
  const auto before = t.heardOf(t.song);
  const auto parts = t.made.timesKept();
  const auto cut = *splitAt(t.song, t.kit, {f(50'000), f(130'000), f(191'800), f(260'000)}, f(0));
  EXPECT_EQ(t.heardOf(cut), before);
  EXPECT_EQ(t.made.timesKept(), parts);
}

TEST(StretchedEdits, CopiesOnTheSameTracksNeedNothingNew) {
  Stretched t;
  (void)t.heardOf(t.song);
  const auto parts = t.made.timesKept();
  const auto copied = duplicateClips(t.song, {t.kitClip}, 2);
  ASSERT_TRUE(copied);
  const auto out = t.heardOf(copied->song, 1'200'000);
  for (std::size_t i = 0; i < 400'000; ++i) ASSERT_EQ(out[i], out[400'000 + i]) << i;
  EXPECT_EQ(t.made.timesKept(), parts);
}

TEST(Preview, StandsInWithTheAttacksInPlaceUntilTheSoundIsMade) {
  Stretched t;
  const auto plan = compilePlan(t.song, t.pool, nullptr, &t.made);
  EXPECT_TRUE(plan.preview);
  std::vector<float> out(400'000, 0.0F);
  addSegments(*plan.tracks[1].channels[0], f(0), out);
  const auto& sound = t.sound(t.song.tracks[1].id);
  for (const auto& pin : t.song.find(t.kitClip)->map.pins())
    ASSERT_EQ(out[static_cast<std::size_t>(pin.stretched.value)], sound[static_cast<std::size_t>(pin.take.value)]);
}

TEST(MadeSound, ASettingTurnedAndTurnedBackGivesTheSameBitsAndMakesNothingTwice) {
  Stretched t;
  const auto before = t.heardOf(t.song);
  const auto parts = t.made.timesKept();
  Song other = t.song;
  ClipList clips = *other.sets[0].clips;
  auto pins = clips[0].map.pins();
  pins[1].stretched += f(700);
  clips[0].map = TakeMap(pins);
  other.sets[0].clips = clips;
  EXPECT_NE(t.heardOf(other), before);
  EXPECT_EQ(t.made.timesKept(), parts + 2) << "only what lies beside the pin is made anew";
  EXPECT_EQ(t.heardOf(t.song), before);
  EXPECT_EQ(t.made.timesKept(), parts + 2);
}

TEST(MadeSound, IsTakenFromTheDiskByAnotherRunAndMadeAgainWhenItIsDamaged) {
  const test::Scratch scratch;
  Stretched t;
  for (auto& m : t.song.media)
    m.fingerprint = "xxh3-0123456789abcdef0123456789abcde" + std::to_string(m.id.value % 10) + "-10";
  Progress progress;
  std::size_t parts = 0;
  std::vector<float> first(400'000, 0.0F);
  {
    MadeStore made(scratch / "cache");
    ASSERT_TRUE(makeMissing(t.song, t.pool, made, f(0), progress));
    parts = made.timesKept();
    addSegments(*compilePlan(t.song, t.pool, nullptr, &made).tracks[1].channels[0], f(0), first);
  }
  std::vector<std::filesystem::path> files;
  for (const auto& e : std::filesystem::directory_iterator(scratch / "cache")) files.push_back(e.path());
  ASSERT_EQ(files.size(), parts);
  {
    MadeStore made(scratch / "cache");
    ASSERT_TRUE(makeMissing(t.song, t.pool, made, f(0), progress));
    EXPECT_EQ(made.timesKept(), 0u);
    std::vector<float> again(400'000, 0.0F);
    addSegments(*compilePlan(t.song, t.pool, nullptr, &made).tracks[1].channels[0], f(0), again);
    EXPECT_EQ(again, first);
  }
  std::filesystem::resize_file(files[0], std::filesystem::file_size(files[0]) / 2);
  {
    MadeStore made(scratch / "cache");
    ASSERT_TRUE(makeMissing(t.song, t.pool, made, f(0), progress));
    EXPECT_EQ(made.timesKept(), 1u);
    std::vector<float> again(400'000, 0.0F);
    addSegments(*compilePlan(t.song, t.pool, nullptr, &made).tracks[1].channels[0], f(0), again);
    EXPECT_EQ(again, first);
  }
}

TEST(MadeSound, IsAnotherOneForAnotherRecordingWithTheSamePins) {
  Stretched t;
  (void)t.heardOf(t.song);
  const auto parts = t.made.timesKept();
  Song other = t.song;
  for (auto& m : other.media)
    m.fingerprint = "xxh3-ffffffffffffffffffffffffffffff" + std::to_string(10 + m.id.value % 10) + "-10";
  Progress progress;
  ASSERT_TRUE(makeMissing(other, t.pool, t.made, f(0), progress));
  EXPECT_EQ(t.made.timesKept(), 2 * parts);
}

TEST(MadeSound, WhatIsNearestToThePlayLineIsMadeFirst) {
  Stretched t;
  const auto late = missingParts(t.song, t.pool, t.made, f(280'000));
  ASSERT_GT(late.size(), 3u);
  EXPECT_TRUE(late.front().part.range.contains(f(280'000)));
  for (std::size_t i = 1; i < late.size(); ++i) EXPECT_LT(late[i].part.range.start, late[i - 1].part.range.start);
  EXPECT_EQ(missingParts(t.song, t.pool, t.made, f(0)).front().part.range.start, f(20'000));
}

}  // namespace
}  // namespace ochron

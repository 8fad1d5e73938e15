// What was struck, laid on the lanes.

#include "edits/pattern_edits.h"

#include <gtest/gtest.h>

#include "edits/clip_edits.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

using test::TwoSets;

struct Struckness : ::testing::Test, TwoSets {
  Struckness() {
    cut = *splitAt(song, bass, {Frames{48'000}, Frames{96'000}}, Frames{480});
    ids = test::idsOf(cut, bass);
  }
  Song cut;
  ClipIds ids;
};

TEST_F(Struckness, EachIsHeardUntilTheNextAndWhatLayThereIsGone) {
  const auto next =
      layStruck(cut, bass, {{ids[1], Frames{200'000}, 0}, {ids[0], Frames{210'000}, -6}, {ids[1], Frames{250'000}, 0}},
                Frames{290'000});
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_TRUE(brokenRules(*next).empty());
  std::vector<Clip> laid;
  for (const auto& c : *next->find(bass)->clips)
    if (c.start >= Frames{200'000} && c.start < Frames{290'000}) laid.push_back(c);
  ASSERT_EQ(laid.size(), 3U);
  EXPECT_EQ(laid[0].length, Frames{10'000});
  EXPECT_EQ(laid[1].length, Frames{40'000});
  EXPECT_EQ(laid[1].gainDb, -6);
  EXPECT_EQ(laid[0].source, cut.find(ids[1])->source);
  EXPECT_EQ(laid[2].length, Frames{40'000});
  for (const auto& c : *next->find(bass)->clips)
    EXPECT_TRUE(c.end() <= Frames{200'000} || c.start >= Frames{290'000} || (c.start >= Frames{200'000}))
        << c.start.value;
}

TEST_F(Struckness, OneThatIsTurnedRoundBeginsAtItsEndHoweverShortItIsCut) {
  const auto turned = *reverseClips(cut, {ids[1]});
  const auto next = layStruck(turned, bass, {{ids[1], Frames{300'000}, 0}}, Frames{310'000});
  ASSERT_TRUE(next);
  for (const auto& c : *next->find(bass)->clips)
    if (c.start == Frames{300'000}) {
      EXPECT_EQ(c.source + c.length, turned.find(ids[1])->source + turned.find(ids[1])->length);
      EXPECT_EQ(c.length, Frames{10'000});
    }
}

TEST_F(Struckness, StrokesAtOneFrameAndNoneAtAll) {
  const auto twice =
      layStruck(cut, bass, {{ids[0], Frames{200'000}, 0}, {ids[1], Frames{200'000}, 0}}, Frames{220'000});
  ASSERT_TRUE(twice);
  EXPECT_TRUE(brokenRules(*twice).empty());
  EXPECT_FALSE(layStruck(cut, bass, {}, Frames{100}));
  EXPECT_FALSE(layStruck(cut, bass, {{ClipId{9999}, Frames{0}, 0}}, Frames{100}));
  EXPECT_FALSE(layStruck(cut, bass, {{ids[0], Frames{0}, 99}}, Frames{100}));
}

}  // namespace
}  // namespace ochron

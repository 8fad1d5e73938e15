// What the pieces of a plan stand for when they are taken together again.
#include "edits/pieces.h"

#include <gtest/gtest.h>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

/// A piece that sounds on over a gap: it stands for [1000, 2000) and plays to 2600.
Clip soundingOn() {
  Clip c;
  c.id = ClipId{2};
  c.take = TakeId{1};
  c.source = Frames{1000};
  c.start = Frames{5000};
  c.length = Frames{1600};
  c.piece = PlanPiece{{Frames{1000}, Frames{2000}}, Frames{4000}, HitId{7}, ClipId{1}, {}};
  return c;
}

TEST(Pieces, APieceThatSoundsOnComesBackAsWhatItStandsFor) {
  const auto merged = mergedPieces({soundingOn()});
  ASSERT_EQ(merged.size(), 1u);
  EXPECT_EQ(merged[0].id, ClipId{1});
  EXPECT_EQ(merged[0].start, Frames{5000});
  EXPECT_EQ(merged[0].length, Frames{1000});
}

TEST(Pieces, WhatIsLeftOfItPastItsOwnMaterialStandsForNothing) {
  const auto rest = partOf(soundingOn(), {Frames{6200}, Frames{7000}});
  EXPECT_EQ(rest.length, Frames{400});
  EXPECT_TRUE(mergedPieces({rest}).empty());
  const auto half = partOf(soundingOn(), {Frames{5600}, Frames{7000}});
  ASSERT_EQ(mergedPieces({half}).size(), 1u);
  EXPECT_EQ(mergedPieces({half})[0].length, Frames{400});
}

}  // namespace
}  // namespace ochron

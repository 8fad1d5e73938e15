// Which strokes are one hit, and what of a hit has mics of its own.
#include "analysis/drums/stroke_chains.h"

#include <gtest/gtest.h>

#include "analysis/drums/struck_along.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::kRate;

MicStroke stroke(double ms, DrumClass drum, int mic, bool close = true) {
  MicStroke s;
  s.at = Frames{static_cast<std::int64_t>(ms * kRate / 1000)};
  s.drum = drum;
  s.mic = mic;
  s.close = close;
  return s;
}

std::vector<const MicStroke*> pointersTo(const std::vector<MicStroke>& strokes) {
  std::vector<const MicStroke*> out;
  for (const auto& s : strokes) out.push_back(&s);
  return out;
}

TEST(StrokeChains, FollowEachOtherWithin25Ms) {
  const std::vector strokes{stroke(0, DrumClass::hat, 0), stroke(24, DrumClass::snare, 1),
                            stroke(48, DrumClass::cymbal, 2), stroke(74, DrumClass::hat, 0)};
  const auto chains = chainsOf(pointersTo(strokes), kRate);
  ASSERT_EQ(chains.size(), 2u);
  EXPECT_EQ(chains[0].size(), 3u);
  EXPECT_EQ(chains[1].front(), &strokes[3]);
}

TEST(StrokeChains, TwoKicksPartOnlyWhereTheMicIsTheKicksOwn) {
  for (const bool close : {true, false}) {
    const std::vector strokes{stroke(0, DrumClass::kick, 0, close), stroke(17, DrumClass::kick, 0, close)};
    EXPECT_EQ(chainsOf(pointersTo(strokes), kRate).size(), close ? 2u : 1u);
  }
}

TEST(StrokeChains, ASecondMicOfADrumHearsTheSameStrokeAndASecondOneOnAMicIsAFlam) {
  const std::vector strokes{stroke(0, DrumClass::snare, 0), stroke(2, DrumClass::snare, 1),
                            stroke(3, DrumClass::cymbal, 2, false), stroke(20, DrumClass::snare, 0)};
  const auto close = closeOf(pointersTo(strokes), kRate);
  ASSERT_EQ(close.size(), 2u);
  EXPECT_EQ(close[0], &strokes[0]);
  EXPECT_EQ(close[1], &strokes[3]);
  EXPECT_TRUE(mayBeOne(strokes[0], strokes[2], kRate));
  EXPECT_FALSE(mayBeOne(strokes[0], strokes[3], kRate));
}

TEST(StruckAlong, SaysNothingWhereNothingIsKnown) {
  std::vector<MicHearing> none;
  const BetweenMics between(none, kRate);
  const auto kick = stroke(10, DrumClass::kick, 0);
  const StruckAlong along(between, {{&kick}, {}}, kRate);
  EXPECT_FALSE(along.with({&kick}, kick.at).has_value());
  EXPECT_FALSE(along.with({}, Frames{}).has_value());
  EXPECT_FALSE(along.clues(DrumClass::tom, {&kick}, kick.at).has_value());
}

}  // namespace
}  // namespace ochron

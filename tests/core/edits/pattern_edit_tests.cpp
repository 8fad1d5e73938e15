// What was struck, laid on the lanes.

#include "edits/pattern_edits.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include "edits/clip_edits.h"
#include "edits/rate_edits.h"
#include "edits/track_edits.h"
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

/// Eight strokes of the bass, kept as a pattern of two bars.
struct Patterns : ::testing::Test, TwoSets {
  Patterns() {
    std::vector<Frames> cuts;
    for (int k = 0; k < 8; ++k) cuts.push_back(song.tempo.toFrames(Ticks{kBeat.value * k + (k % 3) * 400}));
    cut = *splitAt(song, bass, cuts, Frames{});
    const FrameRange bars{song.tempo.toFrames(song.tempo.barStart(0)), song.tempo.toFrames(song.tempo.barStart(2))};
    const auto with = keepPattern(cut, bass, bars, "two bars");
    EXPECT_TRUE(with) << with.error().message;
    kept = *with;
    pattern = kept.patterns.back();
  }
  std::vector<Clip> laidIn(const Song& s, FrameRange range) const {
    std::vector<Clip> out;
    for (const auto& c : *s.find(bass)->clips)
      if (c.start >= range.start && c.start < range.end) out.push_back(c);
    return out;
  }
  static constexpr Ticks kBeat{kTicksPerQuarter};
  Song cut;
  Song kept;
  Pattern pattern;
};

TEST_F(Patterns, AreKeptBesideTheLanesWhichStayAsTheyAre) {
  EXPECT_EQ(*kept.find(bass)->clips, *cut.find(bass)->clips);
  EXPECT_EQ(pattern.strokes->size(), 8U);
  EXPECT_EQ(pattern.length.value, 8 * kBeat.value);
  EXPECT_TRUE(brokenRules(kept).empty());
  EXPECT_FALSE(keepPattern(cut, bass, {Frames{100}, Frames{100}}, "p")) << "an empty range";
  EXPECT_FALSE(keepPattern(cut, bass, {song.end() + Frames{5}, song.end() + Frames{500}}, "p")) << "nothing plays";
  EXPECT_FALSE(keepPattern(cut, bass, {Frames{0}, Frames{9000}}, "")) << "no name";
  EXPECT_FALSE(keepPattern(cut, SetId{9999}, {Frames{0}, Frames{9000}}, "p"));
}

TEST_F(Patterns, AreLaidOnTheSongsOwnBeatsWhateverItsTempoIsThere) {
  auto slower = kept;
  slower.tempo = *TempoMap::steady(kept.rate, kept.tempo.bpmAt(Ticks{0}) / 2, {}, kept.tempo.origin());
  const auto at = slower.tempo.toFrames(slower.tempo.barStart(3));
  const auto laid = layPattern(slower, pattern.id, at, 2);
  ASSERT_TRUE(laid) << laid.error().message;
  EXPECT_TRUE(brokenRules(*laid).empty());
  const auto end = patternEnd(slower, pattern, at, 2);
  EXPECT_EQ(end, slower.tempo.toFrames(slower.tempo.barStart(7)));
  const auto clips = laidIn(*laid, {at, end});
  ASSERT_EQ(clips.size(), 16U);
  for (std::size_t i = 0; i < clips.size(); ++i) {
    const auto& stroke = (*pattern.strokes)[i % 8];
    const auto begin = slower.tempo.toTicks(at) + Ticks{pattern.length.value * static_cast<std::int64_t>(i / 8)};
    EXPECT_EQ(clips[i].start, slower.tempo.toFrames(begin + stroke.at)) << i;
    EXPECT_EQ(clips[i].source, stroke.clip.source) << i;
    ASSERT_TRUE(laid->find(clips[i].bundle));
    EXPECT_EQ(laid->find(clips[i].bundle)->name, "two bars");
  }
  EXPECT_NE(clips[0].bundle, clips[8].bundle) << "each time a bundle of its own";
  EXPECT_FALSE(layPattern(slower, pattern.id, at, 0));
  EXPECT_FALSE(layPattern(slower, PatternId{9999}, at));
}

TEST_F(Patterns, ShuffledTheyPlayTheSameSlicesAtTheSamePlaces) {
  const auto other = shuffled(pattern, 3);
  EXPECT_EQ(shuffled(pattern, 3), other) << "by its drawing alone";
  EXPECT_NE(shuffled(pattern, 4), other);
  std::vector<std::int64_t> before;
  std::vector<std::int64_t> after;
  for (std::size_t i = 0; i < 8; ++i) {
    EXPECT_EQ((*other.strokes)[i].at, (*pattern.strokes)[i].at);
    before.push_back((*pattern.strokes)[i].clip.source.value);
    after.push_back((*other.strokes)[i].clip.source.value);
  }
  EXPECT_NE(before, after);
  std::sort(after.begin(), after.end());
  EXPECT_EQ(before, after);
}

TEST_F(Patterns, VariedTheyKeepTheirLinesAndThePlayersOwnScatter) {
  Grid quarters;
  quarters.denominator = 4;
  std::set<std::int64_t> scatter;
  for (const auto& s : *pattern.strokes) scatter.insert((s.at - nearestLine(kept.tempo, quarters, s.at).at).value);
  const auto other = varied(kept, pattern, quarters, 11);
  EXPECT_NE(other, pattern);
  ASSERT_EQ(other.strokes->size(), 8U);
  for (std::size_t i = 0; i < 8; ++i) {
    const auto line = nearestLine(kept.tempo, quarters, (*other.strokes)[i].at).at;
    EXPECT_EQ(line.value, kBeat.value * static_cast<std::int64_t>(i));
    EXPECT_TRUE(scatter.contains(((*other.strokes)[i].at - line).value)) << i;
  }
  const auto changed = changePattern(kept, other);
  ASSERT_TRUE(changed);
  EXPECT_TRUE(brokenRules(*changed).empty());
}

TEST_F(Patterns, AreDrawnOneSliceAtATimeErasedAndMadeLouder) {
  const auto begun = beginPattern(cut, test::idsOf(cut, bass)[2], Ticks{4 * kBeat.value}, "drawn");
  ASSERT_TRUE(begun) << begun.error().message;
  EXPECT_TRUE(brokenRules(*begun).empty());
  auto p = begun->patterns.back();
  ASSERT_EQ(p.strokes->size(), 1U);
  EXPECT_EQ((*p.strokes)[0].at, Ticks{0});
  const auto other = *cut.find(test::idsOf(cut, bass)[5]);
  const Ticks reach{kBeat.value / 8};
  p = drawn(p, other, Ticks{2 * kBeat.value}, reach);
  p = drawn(p, other, kBeat, reach);
  ASSERT_EQ(p.strokes->size(), 3U);
  EXPECT_EQ((*p.strokes)[1].at, kBeat) << "rising";
  // What lies in the same column gives way, off its line or not.
  p = drawn(p, (*p.strokes)[0].clip, kBeat + Ticks{20}, reach);
  ASSERT_EQ(p.strokes->size(), 3U);
  EXPECT_EQ((*p.strokes)[1].clip.id, (*p.strokes)[0].clip.id);
  EXPECT_TRUE(brokenRules(*changePattern(*begun, p)).empty());
  p = withGain(p, 1, 99);
  EXPECT_EQ((*p.strokes)[1].clip.gainDb, kGainRange.high);
  p = *erased(p, 1);
  EXPECT_EQ(p.strokes->size(), 2U);
  EXPECT_FALSE(erased(p, 7));
  EXPECT_FALSE(erased(*erased(p, 0), 0)) << "one is left";
  // Longer it keeps all, shorter what lies within.
  EXPECT_EQ(ofLength(p, Ticks{16 * kBeat.value})->strokes, p.strokes);
  EXPECT_EQ(ofLength(p, kBeat)->strokes->size(), 1U);
  EXPECT_FALSE(ofLength(*erased(p, 0), kBeat));
  EXPECT_FALSE(ofLength(p, Ticks{0}));
}

TEST_F(Patterns, AreRenamedDoubledAndTakenAway) {
  EXPECT_EQ(renamePattern(kept, pattern.id, "verse")->patterns.back().name, "verse");
  EXPECT_FALSE(renamePattern(kept, pattern.id, ""));
  const auto twice = duplicatePattern(kept, pattern.id);
  ASSERT_EQ(twice->patterns.size(), 2U);
  EXPECT_EQ(twice->patterns[1].name, "two bars copy");
  EXPECT_NE(twice->patterns[1].id, pattern.id);
  EXPECT_EQ(removePattern(*twice, pattern.id)->patterns.size(), 1U);
  EXPECT_FALSE(removePattern(kept, PatternId{9999}));
}

TEST_F(Patterns, GoWithTheirSetAndAreCarriedToAnotherRate) {
  const auto without = removeTracks(kept, kept.find(bass)->tracks);
  ASSERT_TRUE(without) << without.error().message;
  EXPECT_TRUE(without->patterns.empty());
  EXPECT_TRUE(brokenRules(*without).empty());
  const auto faster = songAtRate(kept, 96'000);
  ASSERT_TRUE(faster) << faster.error().message;
  EXPECT_EQ(faster->patterns.back().strokes->front().clip.length.value,
            pattern.strokes->front().clip.length.value * 96'000 / kept.rate);
  EXPECT_EQ(faster->patterns.back().length, pattern.length);
}

}  // namespace
}  // namespace ochron

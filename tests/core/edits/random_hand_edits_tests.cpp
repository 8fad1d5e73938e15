// Any sequence of edits by hand keeps every rule, leaves earlier songs alone, and survives saving.

#include <gtest/gtest.h>

#include "edits/differing.h"
#include "store/song_json.h"
#include "support/random_edits.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

using test::Dice;
using test::TwoSets;

/// The kit's and the bass's clips stretched by hand.
Song stretched(Song song) {
  for (std::size_t i = 0; i < 2; ++i) {
    ClipList clips = *song.sets[i].clips;
    clips[0].map = TakeMap({{Frames{5000}, Frames{5000}},
                            {Frames{100'000}, Frames{120'000}},
                            {Frames{200'000}, Frames{190'000}},
                            {Frames{200'010}, Frames{190'500}}});
    clips[0].length = Frames{400'000};
    song.sets[i].clips = std::move(clips);
  }
  return song;
}

/// What lies outside the stretch where two lists differ is the same in both, and the stretch is no longer than need be.
void expectEqualBeside(const ClipList& a, const ClipList& b) {
  const auto stretch = differing(a, b);
  EXPECT_EQ(stretch.empty(), a == b);
  const auto beside = [&](const ClipList& clips) {
    ClipList out;
    for (const auto& c : clips)
      if (stretch.empty() || c.end() <= stretch.start || c.start >= stretch.end) out.push_back(c);
    return out;
  };
  EXPECT_EQ(beside(a), beside(b));
  const auto begins = [&](const ClipList& clips) {
    return std::any_of(clips.begin(), clips.end(), [&](auto& c) { return c.start == stretch.start; });
  };
  EXPECT_TRUE(stretch.empty() || begins(a) || begins(b));
}

class RandomHandEdits : public ::testing::TestWithParam<std::uint64_t> {};

TEST_P(RandomHandEdits, KeepEveryRuleAndSurviveSaving) {
  SCOPED_TRACE(testing::Message() << "seed " << GetParam());
  static const TwoSets start;
  Dice dice(GetParam());
  Song now = start.song;
  if (GetParam() % 2 == 0) now = stretched(now);
  std::vector<Song> past;
  int done = 0;
  for (int i = 0; i < 150; ++i) {
    const auto next = dice.below(3) == 0 ? test::otherEdit(now, dice) : test::clipEdit(now, dice);
    if (!next) {
      EXPECT_FALSE(next.error().message.empty());
      continue;
    }
    ++done;
    past.push_back(now);
    for (const auto& set : now.sets) expectEqualBeside(*set.clips, *next->find(set.id)->clips);
    now = *next;
    const auto broken = brokenRules(now);
    ASSERT_TRUE(broken.empty()) << "after edit " << i << ": " << broken.front();
  }
  EXPECT_GT(done, 15);
  const auto back = songFromJson(songToJson(now), "song.json");
  ASSERT_TRUE(back.has_value()) << back.error().message;
  EXPECT_EQ(*back, now);
  if (GetParam() % 2 == 1) EXPECT_EQ(past.front(), start.song);
}
INSTANTIATE_TEST_SUITE_P(Seeds, RandomHandEdits, ::testing::Range<std::uint64_t>(1, 200));

}  // namespace
}  // namespace ochron

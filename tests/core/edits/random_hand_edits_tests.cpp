// Any sequence of edits by hand keeps every rule, leaves earlier songs alone, and survives saving.

#include <gtest/gtest.h>

#include <random>

#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/differing.h"
#include "edits/fade_edits.h"
#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/pin_edits.h"
#include "edits/pitch_edits.h"
#include "edits/stretch_edits.h"
#include "seams/apply_plan.h"
#include "store/song_json.h"
#include "support/two_sets.h"

namespace ochron {
namespace {

using test::TwoSets;

class Dice {
 public:
  explicit Dice(std::uint64_t seed) : engine_(seed) {}
  std::uint64_t below(std::uint64_t n) { return n == 0 ? 0 : engine_() % n; }
  Frames frames(std::int64_t low, std::int64_t high) {
    return Frames{low + static_cast<std::int64_t>(below(static_cast<std::uint64_t>(high - low)))};
  }
  ClipIds clips(const Song& song) {
    ClipIds all;
    for (const auto& s : song.sets)
      for (const auto& c : *s.clips) all.push_back(c.id);
    ClipIds out;
    const auto n = 1 + below(4);
    for (std::uint64_t i = 0; i < n && !all.empty(); ++i) {
      const auto at = static_cast<std::ptrdiff_t>(below(all.size()));
      out.push_back(all[static_cast<std::size_t>(at)]);
      all.erase(all.begin() + at);
    }
    return out;
  }
  SetId set(const Song& song) { return song.sets[below(song.sets.size())].id; }
  TrackId track(const Song& song) { return song.tracks[below(song.tracks.size())].id; }
  FrameRange range() {
    const auto a = frames(0, 500'000);
    return {a, a + frames(1, 60'000)};
  }
  bool coin() { return below(2) == 0; }

 private:
  std::mt19937_64 engine_;
};

Result<Song> song(Result<Placed> placed) {
  if (!placed) return tl::unexpected(placed.error());
  return std::move(placed->song);
}

Result<Song> clipEdit(const Song& s, Dice& d) {
  const auto clips = d.clips(s);
  const auto by = d.frames(-40'000, 40'000);
  const auto overlap = d.coin() ? Overlap::cover : Overlap::crossfade;
  switch (d.below(17)) {
    case 0: return splitAt(s, d.set(s), {d.frames(0, 480'000), d.frames(0, 480'000)}, d.frames(0, 2000));
    case 1: return moveClips(s, clips, by, overlap);
    case 2: return moveClipsAcross(s, clips, by, static_cast<int>(d.below(5)) - 2, overlap);
    case 3: return trimStarts(s, clips, by, d.coin());
    case 4: return trimEnds(s, clips, by, d.coin());
    case 5: return slipClips(s, clips, by);
    case 6: return slideClips(s, clips, by);
    case 7: return clips.size() < 3 ? deleteClips(s, clips, d.coin()) : Result<Song>(s);
    case 8: return deleteRange(s, {d.set(s), d.set(s)}, d.range(), d.coin());
    case 9: return closeGapsBefore(s, clips);
    case 10: return reverseClips(s, clips);
    case 11: return clips.size() > 1 ? swapClips(s, clips[0], clips[1]) : Result<Song>(s);
    case 12:
      return changeClips(s, clips, [&](Clip& c) {
        c.gainDb = -3, c.pan = 20, c.muted = d.coin();
        changeExtras(c, [&](ClipExtras& e) { e.name = "n", e.colour = 2, e.sync = c.played().start; });
      });
    case 13: {
      const auto* clip = clips.empty() ? nullptr : s.find(clips[0]);
      if (!clip) return s;
      const auto take = clip->played().start + Frames{static_cast<std::int64_t>(d.below(static_cast<std::uint64_t>(
                                                   std::max<std::int64_t>(1, clip->played().length().value))))};
      const auto reach = static_cast<PinReach>(d.below(3));
      return d.coin() ? movePins(s, clips[0], {take}, by, reach) : removePins(s, clips[0], handPins(*clip));
    }
    case 14:
      return d.coin() ? transposeClips(s, clips, d.coin() ? 300 : -250)
                      : setFormants(s, clips, d.coin() ? std::optional(Formants{d.coin(), 120}) : std::nullopt);
    case 15:
      return setStretchMethod(s, clips,
                              d.coin() ? std::optional(static_cast<StretchMethod>(d.below(4))) : std::nullopt);
    default: {
      const auto copied = d.coin() ? copyClips(s, clips) : copyRange(s, {d.set(s)}, d.range());
      if (!copied) return tl::unexpected(copied.error());
      return song(
          pasteClips(s, *copied, d.frames(0, 600'000), overlap, d.coin() ? std::optional(d.set(s)) : std::nullopt));
    }
  }
}

Result<Song> otherEdit(const Song& s, Dice& d) {
  const auto clips = d.clips(s);
  switch (d.below(13)) {
    case 0:
      return changeFades(s, clips, d.coin() ? FadeEnd::in : FadeEnd::out, [&](const Clip&, Fade) {
        return Fade{d.frames(0, 30'000), FadeShape::sCurve, 0.3, d.coin() ? FadeKind::gain : FadeKind::tape};
      });
    case 1: return removeFades(s, clips);
    case 2: {
      CrossfadeChange change;
      change.before = d.frames(0, 3000), change.after = d.frames(0, 3000), change.bias = 0.2;
      return changeCrossfades(s, clips, change);
    }
    case 3: return tapeFade(s, {d.set(s)}, d.range(), FadeEnd::out);
    case 4: return addSpan(s, {d.track(s)}, d.range(), "quiet");
    case 5:
      return s.spans.empty() ? Result<Song>(s) : copySpan(s, s.spans[d.below(s.spans.size())].id, d.frames(0, 9000));
    case 6: return s.spans.empty() ? Result<Song>(s) : removeSpan(s, s.spans[d.below(s.spans.size())].id);
    case 7: return bundleClips(s, clips, "bundle");
    case 8: return s.bundles.empty() ? Result<Song>(s) : unbundle(s, s.bundles[d.below(s.bundles.size())].id);
    case 9: return addMarker(s, Ticks{static_cast<std::int64_t>(d.below(9'000'000))}, Ticks{d.coin() ? 0 : 5000}, "m");
    case 10: {
      const EnvelopeRef ref{static_cast<EnvelopeKind>(d.below(7)), d.track(s), clips.empty() ? ClipId{} : clips[0]};
      return setEnvelope(s, ref, {{d.frames(0, 9000), 1, 0.4}, {d.frames(9000, 90'000), -9, 0}});
    }
    case 11: return song(duplicateClips(s, clips, 1 + static_cast<int>(d.below(2))));
    default: return lockRange(s, d.set(s), {d.frames(0, 480'000), d.frames(480'000, 481'000)});
  }
}

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
    const auto next = dice.below(3) == 0 ? otherEdit(now, dice) : clipEdit(now, dice);
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

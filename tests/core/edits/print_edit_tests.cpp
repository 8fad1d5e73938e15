// Prints: what is said before, what is heard after, and that all of it can be taken back.

#include "edits/print_edits.h"

#include <gtest/gtest.h>

#include "checks/fix.h"
#include "checks/print_checks.h"
#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "edits/pitch_edits.h"
#include "edits/rate_edits.h"
#include "edits/track_edits.h"
#include "render/made_store.h"
#include "render/print_sound.h"
#include "render/render.h"
#include "song/print_source.h"
#include "store/song_json.h"
#include "support/gated.h"
#include "support/random_edits.h"
#include "support/scratch.h"
#include "support/two_sets.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

using test::TwoSets;

/// The names that a song gives out say nothing about it.
Song nameless(Song song) {
  song.lastId = 0;
  return song;
}

struct Prints : ::testing::Test, TwoSets {
  /// Carries a print out, its files written and read.
  Result<Song> printed(const Song& from, const PrintAsk& ask) {
    const auto rows = printRows(from, ask);
    if (!rows) return tl::unexpected(rows.error());
    MadeStore made;
    EXPECT_TRUE(makeMissing(from, pool, made, Frames{0}, test::unwatched()));
    const auto plan = compilePlan(from, pool, nullptr, &made);
    std::vector<PrintTarget> targets;
    for (const auto& row : *rows) targets.push_back({row, scratch / ("print " + std::to_string(++count) + ".wav")});
    Outputs outputs;
    EXPECT_TRUE(writePrints(targets, plan, pool, outputs, test::unwatched()));
    EXPECT_TRUE(outputs.commit());
    std::vector<PrintedFile> files;
    for (const auto& [row, file] : targets) files.push_back({row, file.string(), "print", row.range.length()});
    auto next = applyPrint(from, files);
    if (next)
      for (const auto& m : next->media) {
        if (pool.contains(m.id)) continue;
        auto reader = AudioFileReader::open(m.path);
        EXPECT_TRUE(reader);
        std::vector<float> all(static_cast<std::size_t>(m.length.value * m.channels));
        EXPECT_TRUE(reader->read(all));
        std::vector<std::vector<float>> sides(static_cast<std::size_t>(m.channels));
        for (std::size_t i = 0; i < all.size(); ++i) sides[i % sides.size()].push_back(all[i]);
        pool[m.id] = DecodedMedia::fromSamples(from.rate, std::move(sides));
      }
    return next;
  }
  std::vector<float> mix(const Song& of) {
    MadeStore made;
    EXPECT_TRUE(makeMissing(of, pool, made, Frames{0}, test::unwatched()));
    const auto plan = compilePlan(of, pool, nullptr, &made);
    const auto n = static_cast<std::size_t>(song.end().value);
    std::vector<float> left(n), right(n), room(n);
    addMix(plan, Frames{0}, left, right, room, {});
    left.insert(left.end(), right.begin(), right.end());
    return left;
  }
  /// Cut, crossfaded, faded and louder, with a track panned.
  Song worked() {
    Song s = *splitAt(song, bass, {Frames{40'000}, Frames{90'000}}, Frames{960});
    s = *changeClips(s, {test::idsOf(s, bass)[1]}, [](Clip& c) { c.gainDb = 3; });
    s = *changeFades(s, {test::idsOf(s, bass)[2]}, FadeEnd::out, [](const Clip&, Fade) {
      return Fade{Frames{9'000}, FadeShape::sCurve, 0.3, FadeKind::gain};
    });
    s = *bundleClips(s, {test::idsOf(s, bass)[0], test::idsOf(s, bass)[1]}, "two");
    Track t = *s.find(s.find(bass)->tracks[0]);
    t.gainDb = -4;
    t.pan = 30;
    s = *setTrack(s, t);
    return *setEnvelope(s, {EnvelopeKind::trackGain, t.id, {}}, {{Frames{0}, 0, 0}, {Frames{100'000}, -9, 0.4}});
  }

  test::Scratch scratch;
  int count = 0;
};

TEST_F(Prints, OfClipsNullWithWhatWasHeard) {
  const auto before = worked();
  const auto after = printed(before, {PrintDepth::clip, {bass}, {}});
  ASSERT_TRUE(after) << after.error().message;
  EXPECT_EQ(after->find(bass)->clips->size(), 1U);
  EXPECT_TRUE(brokenRules(*after).empty());
  EXPECT_EQ(mix(*after), mix(before)) << "to the bit";
}

TEST_F(Prints, OfTracksPlayTheSameAtANewMixer) {
  const auto before = worked();
  const auto after = printed(before, {PrintDepth::track, {bass}, {}});
  ASSERT_TRUE(after) << after.error().message;
  const auto& t = *after->find(after->find(bass)->tracks[0]);
  EXPECT_EQ(t.gainDb, 0);
  EXPECT_EQ(t.pan, 0);
  EXPECT_TRUE(t.gainEnvelope->empty());
  const auto a = mix(before);
  const auto b = mix(*after);
  for (std::size_t i = 0; i < a.size(); ++i) ASSERT_NEAR(a[i], b[i], 1e-6F) << i;
}

TEST_F(Prints, OfAKitAreMadeOfAllItsMicsAlike) {
  const auto cut = *splitAt(song, kit, {Frames{50'000}}, Frames{480});
  const auto after = printed(cut, {PrintDepth::clip, {kit}, {}});
  ASSERT_TRUE(after);
  EXPECT_EQ(after->takes.back().mics.size(), song.find(kit)->tracks.size());
  EXPECT_EQ(mix(*after), mix(cut));
}

TEST_F(Prints, TrimmedRecordingsHoldWhatIsUsedAndAllEditsStay) {
  auto s = *trimStarts(song, test::idsOf(song, bass), Frames{100'000}, false);
  s = *trimEnds(s, test::idsOf(s, bass), Frames{-150'000}, false);
  const auto before = mix(s);
  const auto after = printed(s, {PrintDepth::trim, {bass}, {}});
  ASSERT_TRUE(after) << after.error().message;
  EXPECT_EQ(*after->find(bass)->clips, *s.find(bass)->clips);
  const auto* mic = after->micOf(after->find(bass)->clips->front().take, after->find(bass)->tracks[0]);
  EXPECT_LT(after->find(mic->media)->length,
            song.find(song.micOf(song.find(bass)->clips->front().take, song.find(bass)->tracks[0])->media)->length);
  EXPECT_EQ(mix(*after), before);
  const auto back = unprint(*after, after->prints.back().id);
  ASSERT_TRUE(back);
  EXPECT_EQ(nameless(*back), nameless(s));
}

TEST_F(Prints, TakenBackAreExactlyWhatTheyWereMadeOf) {
  for (const auto depth : {PrintDepth::clip, PrintDepth::track}) {
    const auto before = worked();
    const auto after = printed(before, {depth, {bass}, {}});
    ASSERT_TRUE(after);
    // Also after it was closed.
    const auto opened = songFromJson(songToJson(*after), "song.json");
    ASSERT_TRUE(opened) << opened.error().message;
    EXPECT_EQ(*opened, *after);
    const auto back = unprint(*opened, opened->prints.back().id);
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_EQ(nameless(*back), nameless(before));
  }
}

TEST_F(Prints, WhatWasDoneToThemGoesAlong) {
  const auto before = worked();
  auto after = printed(before, {PrintDepth::clip, {bass}, {}});
  ASSERT_TRUE(after);
  auto edited = *moveClips(*after, test::idsOf(*after, bass), Frames{5'000}, Overlap::cover);
  edited = *trimEnds(edited, test::idsOf(edited, bass), Frames{-30'000}, false);
  edited = *changeClips(edited, test::idsOf(edited, bass), [](Clip& c) { c.gainDb = -6; });
  const auto heard = mix(edited);
  const auto back = unprint(edited, edited.prints.back().id);
  ASSERT_TRUE(back);
  EXPECT_GT(back->find(bass)->clips->size(), 1U) << "the cuts are alive again";
  const auto alive = mix(*back);
  // The print faded at no end; its new end is where the edits are now cut.
  for (std::size_t i = 0; i < heard.size() / 2; ++i) ASSERT_NEAR(alive[i], heard[i], 2e-6F) << i;
}

TEST_F(Prints, SayBeforehandWhatTheyWillDoAndRefuseWithASentence) {
  const auto rows = printRows(worked(), {PrintDepth::track, {bass, kit}, {}});
  ASSERT_TRUE(rows);
  EXPECT_EQ(rows->size(), 1 + song.find(kit)->tracks.size());
  EXPECT_EQ(rows->front().channels, 2) << "it is panned";
  EXPECT_FALSE(bakedBy(PrintDepth::clip).empty());
  const auto bare = deleteClips(song, test::idsOf(song, bass), false);
  ASSERT_TRUE(bare);
  EXPECT_FALSE(printRows(*bare, {PrintDepth::clip, {bass}, {}}));
  const auto whole = printRows(song, {PrintDepth::trim, {bass}, {}});
  ASSERT_FALSE(whole);
  EXPECT_NE(whole.error().message.find("whole"), std::string::npos);
  EXPECT_FALSE(unprint(song, PrintId{77}));
}

TEST_F(Prints, GoWithTheirTracksAndComeAlongToAnotherRate) {
  const auto after = printed(worked(), {PrintDepth::clip, {bass}, {}});
  ASSERT_TRUE(after);
  const auto carried = songAtRate(*after, 96'000);
  ASSERT_TRUE(carried) << carried.error().message;
  EXPECT_TRUE(unprint(*carried, carried->prints.back().id));
  const auto bare = removeTracks(*after, after->find(bass)->tracks);
  ASSERT_TRUE(bare);
  EXPECT_TRUE(bare->prints.empty());
  EXPECT_TRUE(brokenRules(*bare).empty());
}

TEST_F(Prints, ATrimKeepsWhatAPrintWasMadeOf) {
  // The bass is printed; all but a little of its recording is played by the print alone from then on.
  auto before = *splitAt(song, bass, {Frames{20'000}, Frames{200'000}}, Frames{0});
  before = *deleteClips(before, {test::idsOf(before, bass)[2]});
  const auto clips = test::idsOf(before, bass);
  auto after = printed(before, {PrintDepth::clip, {}, {clips[0], clips[1]}});
  ASSERT_TRUE(after) << after.error().message;
  const auto print = after->prints.back().id;
  auto clip = after->prints.back().clips->front();
  clip.id = after->newId<ClipTag>();
  clip.start = after->find(bass)->clips->back().end() + Frames{1'000};
  clip.length = Frames{5'000};
  for (auto& s : after->sets)
    if (s.id == bass) {
      auto list = *s.clips;
      list.push_back(clip);
      s.clips = std::move(list);
    }
  ASSERT_TRUE(brokenRules(*after).empty()) << brokenRules(*after).front();
  const auto trimmed = printed(*after, {PrintDepth::trim, {bass}, {}});
  ASSERT_TRUE(trimmed) << trimmed.error().message;
  const auto back = unprint(*trimmed, print);
  ASSERT_TRUE(back) << back.error().message;
  const auto whole = unprint(*after, print);
  EXPECT_EQ(mix(*back), mix(*whole)) << "to the bit";
}

TEST_F(Prints, OfPrintsAreTakenBackInAnyOrder) {
  const auto before = worked();
  const auto first = printed(before, {PrintDepth::clip, {bass}, {}});
  ASSERT_TRUE(first);
  const auto second = printed(*first, {PrintDepth::track, {bass}, {}});
  ASSERT_TRUE(second);
  const auto below = first->prints.back().id;
  const auto above = second->prints.back().id;
  auto back = unprint(*second, above);
  if (back) back = unprint(*back, below);
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(mix(*back), mix(before));
  back = unprint(*second, below);
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_TRUE(brokenRules(*back).empty()) << brokenRules(*back).front();
  EXPECT_EQ(mix(*back), mix(*second)) << "the print above it still plays";
  back = unprint(*back, above);
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(back->find(bass)->clips->size(), before.find(bass)->clips->size());
  const auto track = before.find(bass)->tracks[0];
  EXPECT_EQ(back->find(track)->gainDb, before.find(track)->gainDb);
  EXPECT_EQ(mix(*back), mix(before));
  EXPECT_TRUE(back->prints.empty());
}

TEST_F(Prints, OfOneRecordingTrimmedTwiceAreTakenBackInAnyOrder) {
  auto before = *splitAt(song, bass, {Frames{60'000}, Frames{200'000}}, Frames{0});
  before = *deleteClips(before, {test::idsOf(before, bass)[0], test::idsOf(before, bass)[2]});
  const auto first = printed(before, {PrintDepth::trim, {bass}, {}});
  ASSERT_TRUE(first) << first.error().message;
  auto shorter = *splitAt(*first, bass, {Frames{70'000}}, Frames{0});
  shorter = *deleteClips(shorter, {test::idsOf(shorter, bass)[1]});
  const auto second = printed(shorter, {PrintDepth::trim, {bass}, {}});
  ASSERT_TRUE(second) << second.error().message;
  for (const bool firstOnTop : {false, true}) {
    auto back = unprint(*second, second->prints[firstOnTop ? 0 : 1].id);
    ASSERT_TRUE(back);
    back = unprint(*back, back->prints.front().id);
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_TRUE(back->prints.empty());
    EXPECT_EQ(back->takes, song.takes) << "every mic plays what was recorded";
  }
}

TEST_F(Prints, AreOutOfDateWhenWhatTheyWereMadeWithIsAnotherOne) {
  SungLine line;
  line.track.values.assign(400, {220, 1});
  line.notes = {{0.2, 1.4, 220, false}};
  const auto take = song.find(bassClip)->take;
  auto sung = *setLine(song, take, bass, line);
  TuneSettings tune;
  tune.on = true;
  sung = *setTuning(sung, bass, tune);
  const auto after = printed(sung, {PrintDepth::clip, {bass}, {}});
  ASSERT_TRUE(after) << after.error().message;
  const auto print = after->prints.back();
  EXPECT_EQ(outOfDate(*after, print), "");
  EXPECT_TRUE(printChecksOf(*after).empty());
  const auto opened = songFromJson(songToJson(*after), "song.json");
  ASSERT_TRUE(opened) << opened.error().message;
  EXPECT_EQ(*opened, *after);
  tune.keepCentre = 60;
  const auto changed = *setTuning(*after, bass, tune);
  EXPECT_EQ(outOfDate(changed, print), "the pitch plan is another one");
  const auto checks = printChecksOf(changed);
  ASSERT_EQ(checks.size(), 1U);
  EXPECT_EQ(checks[0].print, print.id);
  EXPECT_TRUE(printChecksOf(*acceptCheck(changed, checks[0])).empty());
  EXPECT_TRUE(fixCheck(changed, bass, checks[0], pool)->prints.empty()) << "taken back";
  line.notes[0].hertz = 230;
  EXPECT_EQ(outOfDate(*setLine(*after, take, bass, line), print), "its notes are other ones");
  auto replaced = *after;
  for (auto& m : replaced.media) m.fingerprint += "x";
  EXPECT_EQ(outOfDate(replaced, print), "a recording is another one");
  // What reaches other takes alone says nothing.
  EXPECT_EQ(outOfDate(*setTuning(*after, voice, tune), print), "");
  auto muted = *changeClips(changed, test::idsOf(changed, bass), [](Clip& c) { c.muted = true; });
  EXPECT_TRUE(printChecksOf(muted).empty()) << "it is not heard";
}

TEST_F(Prints, AreNotOutOfDateForATrim) {
  auto s = *trimEnds(song, test::idsOf(song, bass), Frames{-150'000}, false);
  s = *splitAt(s, bass, {Frames{60'000}}, Frames{480});
  const auto after = printed(s, {PrintDepth::clip, {}, {test::idsOf(s, bass)[0]}});
  ASSERT_TRUE(after) << after.error().message;
  const auto trimmed = printed(*after, {PrintDepth::trim, {bass}, {}});
  ASSERT_TRUE(trimmed) << trimmed.error().message;
  EXPECT_EQ(outOfDate(*trimmed, trimmed->prints.front()), "");
}

TEST_F(Prints, AreComparedWithWhatTheyWereMadeOfToTheBit) {
  for (const auto depth : {PrintDepth::clip, PrintDepth::track}) {
    auto before = worked();
    before.lastId += depth == PrintDepth::track ? 1'000 : 0;  // sound in the pool goes by its name
    const auto after = printed(before, {depth, {bass}, {}});
    ASSERT_TRUE(after);
    const auto& print = after->prints.back();
    // Wherever it lies now, and whatever the mixer is now.
    auto edited = *moveClips(*after, test::idsOf(*after, bass), Frames{5'000}, Overlap::cover);
    Track t = *edited.find(edited.find(bass)->tracks[0]);
    t.gainDb = 2;
    edited = *setTrack(edited, t);
    auto alive = asPrinted(edited, print.id);
    ASSERT_TRUE(alive) << alive.error().message;
    if (depth == PrintDepth::clip) EXPECT_EQ(alive->find(bass)->clips->size(), 3U);
    const auto difference = [&](const Song& of) {
      MadeStore made;
      EXPECT_TRUE(makeMissing(of, pool, made, Frames{0}, test::unwatched()));
      std::vector<PrintedRow> rows;
      const auto asked = *printRows(of, {depth, {bass}, {}});
      for (const auto& row : asked) rows.push_back({row, after->find(print.take)->mics.front().media});
      return *differenceFrom(rows, compilePlan(of, pool, nullptr, &made), pool, test::unwatched());
    };
    EXPECT_EQ(difference(*alive).peak, 0) << kPrintDepthNames[static_cast<std::size_t>(depth)];
    const auto louder = *changeClips(*alive, {test::idsOf(*alive, bass)[1]}, [](Clip& c) { c.gainDb += 1; });
    const auto off = difference(louder);
    EXPECT_GT(off.peak, 0.01F);
    EXPECT_GE(off.at, louder.find(test::idsOf(louder, bass)[1])->start - Frames{960});
  }
}

TEST_F(Prints, AfterFiftyRandomEditsAreTakenBackToASongThatHoldsEveryRule) {
  for (std::uint64_t seed = 1; seed <= 6; ++seed) {
    SCOPED_TRACE(seed);
    test::Dice dice(seed);
    Song now = song;
    for (int i = 0; i < 25; ++i)
      if (auto next = test::clipEdit(now, dice); next && brokenRules(*next).empty()) now = *next;
    // Only the book-keeping: what a file holds does not matter here.
    const auto rows = printRows(now, {PrintDepth::clip, {bass}, {}});
    if (!rows) continue;
    std::vector<PrintedFile> files;
    for (const auto& row : *rows) files.push_back({row, "print.wav", "print", row.range.length()});
    const auto after = applyPrint(now, files);
    ASSERT_TRUE(after);
    ASSERT_TRUE(brokenRules(*after).empty()) << brokenRules(*after).front();
    Result<Song> back = *after;
    for (const auto id : printsOf(*after, bass)) back = unprint(*back, id);
    ASSERT_TRUE(back);
    EXPECT_EQ(nameless(*back), nameless(now));
    Song worked = *after;
    for (int i = 0; i < 25; ++i)
      if (auto next = test::clipEdit(worked, dice); next && brokenRules(*next).empty()) worked = *next;
    back = worked;
    for (const auto id : printsOf(worked, bass))
      if (back) back = unprint(*back, id);
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_TRUE(brokenRules(*back).empty()) << brokenRules(*back).front();
    EXPECT_TRUE(printsOf(*back, bass).empty());
  }
}

}  // namespace
}  // namespace ochron

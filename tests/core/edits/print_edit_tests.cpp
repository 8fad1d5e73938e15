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
    const auto print = planPrint(from, ask);
    if (!print) return tl::unexpected(print.error());
    MadeStore made;
    EXPECT_TRUE(makeMissing(print->song, pool, made, Frames{0}, test::unwatched()));
    const auto plan = compilePlan(print->song, pool, nullptr, &made);
    const auto levels = printLevels(print->rows, plan, pool, test::unwatched());
    EXPECT_TRUE(levels);
    const auto targets = printTargets(print->rows, *levels, scratch / ("print " + std::to_string(++count)));
    Outputs outputs;
    EXPECT_TRUE(writePrints(targets, plan, pool, outputs, test::unwatched()));
    EXPECT_TRUE(outputs.commit());
    std::vector<PrintedFile> files;
    for (const auto& [row, file, level] : targets)
      files.push_back({row, file.string(), "print", row.range.length(), level.gainDb});
    auto next = applyPrint(print->song, files);
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
  const auto plan = planPrint(worked(), {PrintDepth::track, {bass, kit}, {}});
  ASSERT_TRUE(plan);
  EXPECT_EQ(plan->rows.size(), 1 + song.find(kit)->tracks.size());
  EXPECT_EQ(plan->rows.front().channels, 2) << "it is panned";
  EXPECT_FALSE(bakedBy(PrintDepth::clip).empty());
  const auto bare = deleteClips(song, test::idsOf(song, bass), false);
  ASSERT_TRUE(bare);
  EXPECT_FALSE(planPrint(*bare, {PrintDepth::clip, {bass}, {}}));
  const auto whole = planPrint(song, {PrintDepth::trim, {bass}, {}});
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
      const auto asked = planPrint(of, {depth, {bass}, {}})->rows;
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

TEST_F(Prints, OfARangeLeaveTheRestAliveAndNothingOfTheCutsIsHeard) {
  auto before = worked();
  const auto heard = mix(before);
  // Inside of clips; and in the crossfade around 40 000, which is taken in whole.
  for (const auto& [asked, gets] : {std::pair<FrameRange, FrameRange>{{Frames{20'000}, Frames{70'000}}, {}},
                                    {{Frames{40'100}, Frames{70'000}}, {Frames{39'520}, Frames{70'000}}},
                                    {{Frames{10'000}, Frames{39'600}}, {Frames{10'000}, Frames{40'480}}}}) {
    SCOPED_TRACE(asked.start.value);
    before.lastId += 1'000;  // sound in the pool goes by its name
    const PrintAsk ask{PrintDepth::clip, {bass}, {}, {asked}};
    const auto plan = planPrint(before, ask);
    ASSERT_TRUE(plan) << plan.error().message;
    ASSERT_EQ(plan->rows.size(), 1U);
    EXPECT_EQ(plan->rows.front().range, gets.empty() ? asked : gets);
    const auto after = printed(before, ask);
    ASSERT_TRUE(after) << after.error().message;
    EXPECT_TRUE(brokenRules(*after).empty());
    const auto now = mix(*after);
    for (std::size_t i = 0; i < heard.size(); ++i) ASSERT_EQ(now[i], heard[i]) << i;
    const auto opened = songFromJson(songToJson(*after), "song.json");
    ASSERT_TRUE(opened) << opened.error().message;
    EXPECT_EQ(*opened, *after);
    const auto back = unprint(*opened, opened->prints.back().id);
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_EQ(nameless(*back), nameless(before)) << "the cuts at its ends are gone, too";
  }
}

TEST_F(Prints, OfARangeTakeInAllOfAPlansPiecesThatHangTogether) {
  auto sliced = *splitAt(song, bass, {Frames{40'000}, Frames{90'000}, Frames{140'000}}, Frames{200});
  for (auto& s : sliced.sets) {
    if (s.id != bass) continue;
    auto clips = *s.clips;
    for (std::size_t i = 1; i < 3; ++i)
      clips[i].piece = PlanPiece{clips[i].range(), Frames{}, HitId{}, clips[i].id, clips[i].map};
    s.clips = clips;
  }
  const auto plan = planPrint(sliced, {PrintDepth::clip, {bass}, {}, {{Frames{20'000}, Frames{60'000}}}});
  ASSERT_TRUE(plan) << plan.error().message;
  EXPECT_EQ(plan->rows.front().range, (FrameRange{Frames{20'000}, Frames{140'100}})) << "and the crossfade at its end";
}

TEST_F(Prints, OfRangesSideBySideAreTakenBackInAnyOrder) {
  const auto first = printed(song, {PrintDepth::clip, {kit}, {}, {{Frames{50'000}, Frames{100'000}}}});
  ASSERT_TRUE(first);
  const auto both = printed(*first, {PrintDepth::clip, {kit}, {}, {{Frames{100'000}, Frames{150'000}}}});
  ASSERT_TRUE(both) << both.error().message;
  EXPECT_EQ(mix(*both), mix(song));
  for (const bool firstFirst : {true, false}) {
    auto ids = printsOf(*both, kit);
    if (!firstFirst) std::reverse(ids.begin(), ids.end());
    auto back = unprint(*both, ids[0]);
    ASSERT_TRUE(back);
    back = unprint(*back, ids[1]);
    ASSERT_TRUE(back);
    EXPECT_EQ(back->find(kit)->clips->size(), 1U) << firstFirst;
    EXPECT_EQ(mix(*back), mix(song));
  }
}

TEST_F(Prints, OfARangeThatWasMovedComeBackWhereTheyAreAndAreNotJoined) {
  const auto after = printed(song, {PrintDepth::clip, {bass}, {}, {{Frames{50'000}, Frames{100'000}}}});
  ASSERT_TRUE(after);
  const auto moved = *moveClips(*after, {test::idsOf(*after, bass)[1]}, Frames{3'000}, Overlap::cover);
  const auto heard = mix(moved);
  const auto back = unprint(moved, moved.prints.back().id);
  ASSERT_TRUE(back);
  EXPECT_EQ(back->find(bass)->clips->size(), 3U);
  EXPECT_EQ(mix(*back), heard);
}

TEST_F(Prints, AreRefusedWhereTheRangeIsNone) {
  EXPECT_FALSE(planPrint(song, {PrintDepth::clip, {bass}, {}, {FrameRange{}}}));
  const auto deep = planPrint(song, {PrintDepth::track, {bass}, {}, {{Frames{10}, Frames{90}}}});
  ASSERT_FALSE(deep);
  EXPECT_NE(deep.error().message.find("as clips"), std::string::npos);
  EXPECT_FALSE(planPrint(song, {PrintDepth::clip, {bass}, {}, {{song.end(), song.end() + Frames{90}}}}));
}

TEST_F(Prints, BroughtToAPeakPlayAsBeforeByTheGainOfTheirClip) {
  auto before = *changeClips(worked(), {test::idsOf(worked(), bass)[0]}, [](Clip& c) { c.gainDb = -12; });
  for (const auto samples : {PrintSamples::float32, PrintSamples::pcm24, PrintSamples::pcm16}) {
    before.lastId += 1'000;  // sound in the pool goes by its name
    PrintAsk ask{PrintDepth::clip, {bass, kit}, {}, {}, {samples, -3.0, 0}};
    const auto after = printed(before, ask);
    ASSERT_TRUE(after) << after.error().message;
    const float step = samples == PrintSamples::float32 ? 1e-7F : samples == PrintSamples::pcm24 ? 5e-7F : 1e-4F;
    const auto a = mix(before);
    const auto b = mix(*after);
    float most = 0;
    for (std::size_t i = 0; i < a.size(); ++i) most = std::max(most, std::abs(a[i] - b[i]));
    EXPECT_LT(most, 12 * step);
    if (samples == PrintSamples::pcm16) EXPECT_GT(most, 1e-6F) << "16 bits are no more";
    // All mics of the kit by one gain, the loudest at the peak.
    float peak = 0;
    for (const auto& mic : after->find(after->find(kit)->clips->front().take)->mics) {
      const auto x = pool.at(mic.media)->channel(0);
      for (std::size_t i = 0; i < x.size(); ++i) peak = std::max(peak, std::abs(x[i]));
    }
    EXPECT_NEAR(20 * std::log10(peak), -3, 0.01);
    EXPECT_EQ(after->find(kit)->clips->front().gainDb, -after->prints.back().levelDb);
    Result<Song> back = *songFromJson(songToJson(*after), "song.json");
    for (const auto set : {bass, kit}) back = unprint(*back, printsOf(*back, set).back());
    ASSERT_TRUE(back);
    ASSERT_EQ(back->find(bass)->clips->size(), before.find(bass)->clips->size());
    for (std::size_t i = 0; i < before.find(bass)->clips->size(); ++i)
      EXPECT_NEAR((*back->find(bass)->clips)[i].gainDb, (*before.find(bass)->clips)[i].gainDb, 1e-9);
  }
}

TEST_F(Prints, OverFullScaleStayFloatWhateverWasChosen) {
  const auto loud = *changeClips(song, test::idsOf(song, bass), [](Clip& c) { c.gainDb = 20; });
  const PrintAsk ask{PrintDepth::clip, {bass, kit}, {}, {}, {PrintSamples::pcm16, {}, 0}};
  const auto plan = planPrint(loud, ask);
  ASSERT_TRUE(plan);
  const auto levels = printLevels(plan->rows, compilePlan(loud, pool), pool, test::unwatched());
  ASSERT_TRUE(levels);
  EXPECT_EQ(levels->front().samples, PrintSamples::float32);
  EXPECT_EQ(levels->back().samples, PrintSamples::pcm16);
  const auto after = printed(loud, ask);
  ASSERT_TRUE(after);
  const auto a = mix(loud);
  const auto b = mix(*after);
  for (std::size_t i = 0; i < a.size(); ++i) ASSERT_NEAR(a[i], b[i], 2e-4F) << i;
}

TEST_F(Prints, AfterFiftyRandomEditsAreTakenBackToASongThatHoldsEveryRule) {
  for (std::uint64_t seed = 1; seed <= 6; ++seed) {
    SCOPED_TRACE(seed);
    test::Dice dice(seed);
    Song now = song;
    for (int i = 0; i < 25; ++i)
      if (auto next = test::clipEdit(now, dice); next && brokenRules(*next).empty()) now = *next;
    // Only the book-keeping: what a file holds does not matter here.
    PrintAsk ask{PrintDepth::clip, {bass}, {}};
    if (seed % 2 == 0) ask.ranges = {{Frames{30'001}, Frames{200'003}}};
    const auto plan = planPrint(now, ask);
    if (!plan) continue;
    std::vector<PrintedFile> files;
    for (const auto& row : plan->rows) files.push_back({row, "print.wav", "print", row.range.length()});
    const auto after = applyPrint(plan->song, files);
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

// A sound of its own in the place of what a clip plays.

#include "edits/cell_edits.h"

#include <gtest/gtest.h>

#include <random>

#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "edits/rate_edits.h"
#include "edits/track_edits.h"
#include "gate/gate.h"
#include "store/song_json.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

constexpr std::int64_t kBeat = 24'000;

std::vector<float> noise(std::size_t frames, unsigned seed) {
  std::mt19937 dice(seed);
  std::normal_distribution<float> n(0, 0.1F);
  std::vector<float> out(frames);
  for (auto& s : out) s = n(dice);
  return out;
}

/// Two mics, a stroke on each beat, cut just before the second, third and fourth.
struct CellSounds : ::testing::Test {
  CellSounds() : sound(noise(9'000, 7)) {
    HitList hits;
    for (int i = 1; i < 8; ++i) {
      Hit h;
      h.at = Frames{i * kBeat};
      h.strength = h.confidence = 1;
      h.drum = i % 2 ? DrumClass::kick : DrumClass::snare;
      hits.push_back(h);
    }
    made = test::songOf(*TempoMap::steady(48'000, 120), {noise(10 * kBeat, 1), noise(10 * kBeat, 2)}, hits);
    made.song = *splitAt(made.song, made.set,
                         {Frames{2 * kBeat - 240}, Frames{3 * kBeat - 240}, Frames{4 * kBeat - 240}}, Frames{0});
    incoming.name = "clap";
    incoming.path = "/nowhere/clap.wav";
    incoming.fingerprint = "clap";
    incoming.length = Frames{std::ssize(sound)};
  }
  const ClipList& clips(const Song& song) { return *song.find(made.set)->clips; }
  /// What a song sounds like on a mic, once the sound is among its recordings.
  std::vector<float> heard(const Song& song, std::size_t mic, FrameRange range) {
    auto m = made;
    m.song = song;
    for (const auto& media : song.media)
      if (media.name == "clap") m.pool[media.id] = DecodedMedia::fromSamples(song.rate, {sound});
    return test::rendered(m, mic, range);
  }
  std::vector<float> sound;
  test::MadeSong made;
  IncomingSound incoming;
};

TEST_F(CellSounds, HaveTheirAttackOnTheStrokeAndAreTheRecordingToTheBit) {
  const auto cell = clips(made.song)[1];
  const auto next = giveSound(made.song, {cell.id}, incoming, Frames{100});
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_TRUE(brokenRules(*next).empty());
  const auto out = heard(*next, 0, cell.range());
  const auto first = 240 - 100;  // the stroke lies 240 frames into the cell
  for (int i = 0; i < first; ++i) ASSERT_EQ(out[static_cast<std::size_t>(i)], 0);
  for (std::size_t i = 0; i < sound.size(); ++i) ASSERT_EQ(out[static_cast<std::size_t>(first) + i], sound[i]) << i;
  for (auto i = static_cast<std::size_t>(first) + sound.size(); i < out.size(); ++i) ASSERT_EQ(out[i], 0);
  for (const auto v : heard(*next, 1, cell.range())) ASSERT_EQ(v, 0) << "the other mics are silent there";
  const FrameRange before{Frames{0}, cell.start};
  EXPECT_EQ(heard(*next, 0, before), heard(made.song, 0, before));
}

TEST_F(CellSounds, ThatReachBeyondTheirCellAreFadedAtItsEndAndAKeptGainHolds) {
  auto louder = *changeClips(made.song, {clips(made.song)[1].id}, [](Clip& c) { c.gainDb = 6; });
  incoming.length = Frames{90'000};
  const auto next = giveSound(louder, {clips(louder)[1].id}, incoming, Frames{0});
  ASSERT_TRUE(next);
  EXPECT_EQ(clips(*next)[1].fadeOut.length, Frames{144});
  EXPECT_EQ(clips(*next)[1].gainDb, 6);
}

TEST_F(CellSounds, AreTakenBackWithTheRecordingAsItWasAndTheirFileLeavesTheSong) {
  const ClipIds cells{clips(made.song)[1].id, clips(made.song)[2].id};
  const auto given = giveSound(made.song, cells, incoming, Frames{100});
  ASSERT_TRUE(given);
  EXPECT_EQ(given->media.size(), made.song.media.size() + 1);
  const auto again = giveSound(*given, {cells[1]}, incoming, Frames{100});
  ASSERT_TRUE(again);
  EXPECT_EQ(again->media.size(), given->media.size()) << "one file is one recording";
  const auto one = giveRecordingBack(*given, {cells[0]});
  ASSERT_TRUE(one);
  EXPECT_EQ(one->media.size(), given->media.size()) << "the other still plays it";
  const auto back = giveRecordingBack(*one, cells);
  ASSERT_TRUE(back);
  EXPECT_EQ(clips(*back), clips(made.song));
  EXPECT_EQ(back->media, made.song.media);
  EXPECT_FALSE(giveRecordingBack(*back, cells)) << "there is nothing to take back";
}

TEST_F(CellSounds, AreSavedUnderAFormatOfTheirOwnAndCarriedToAnotherRate) {
  EXPECT_EQ(songToJson(made.song).find("\"orthochron song\": 8"), std::string::npos);
  const auto next = *giveSound(made.song, {clips(made.song)[1].id}, incoming, Frames{100});
  const auto text = songToJson(next);
  EXPECT_NE(text.find("\"orthochron song\": 8"), std::string::npos);
  const auto read = songFromJson(text, "song.json");
  ASSERT_TRUE(read) << read.error().message;
  EXPECT_EQ(*read, next);
  const auto slower = songAtRate(next, 24'000);
  ASSERT_TRUE(slower);
  EXPECT_EQ(clips(*slower)[1].extras->sound->offset, Frames{(2 * kBeat - 100) / 2});
}

TEST_F(CellSounds, GoOutOfThePlanAndItsOtherPiecesStayThePlans) {
  TimingPlan plan = *made.song.find(made.set)->plan;
  plan.settings.on = true;
  plan.settings.grid = *parseGrid("1/16");
  plan.settings.leadInMs = 5;
  // Off the grid, so that the plan cuts.
  auto hits = *made.song.hitsOf(made.take, made.set);
  for (std::size_t i = 0; i < hits.size(); ++i) hits[i].at += Frames{i % 2 ? 700 : -500};
  auto song = test::songOf(made.song.tempo, {noise(10 * kBeat, 1)}, hits);
  made.set = song.set;
  const auto planned = admitted(song.song, *setTimingPlan(song.song, song.set, plan), song.pool);
  ASSERT_TRUE(planned);
  ASSERT_GT(clips(*planned).size(), 4u);
  const auto cell = clips(*planned)[2];
  ASSERT_TRUE(cell.piece);
  const auto edit = giveSound(*planned, {cell.id}, incoming, Frames{0});
  ASSERT_TRUE(edit);
  const auto next = admitted(*planned, *edit, song.pool);
  ASSERT_TRUE(next) << next.error().message;
  const auto* now = next->find(cell.id);
  ASSERT_TRUE(now);
  EXPECT_FALSE(now->piece);
  ASSERT_TRUE(now->extras->sound);
  EXPECT_EQ(now->toSong(now->extras->sound->offset), cell.toSong(hits[1].at)) << "where the stroke stood";
}

TEST_F(CellSounds, HoldInALockedRangeAndWithoutTheirFirstTrackAreHeardOnTheNext) {
  const auto cell = clips(made.song)[1];
  const auto locked = *lockRange(made.song, made.set, {Frames{0}, Frames{5 * kBeat}});
  EXPECT_FALSE(admitted(locked, *giveSound(locked, {cell.id}, incoming, Frames{0}), made.pool));
  const auto next = *giveSound(made.song, {cell.id}, incoming, Frames{0});
  const auto less = removeTracks(next, {next.find(made.set)->tracks.front()});
  ASSERT_TRUE(less) << less.error().message;
  EXPECT_TRUE(brokenRules(*less).empty());
  const auto out = heard(*less, 0, cell.range());
  for (std::size_t i = 0; i < sound.size(); ++i) ASSERT_EQ(out[240 + i], sound[i]);
}

}  // namespace
}  // namespace ochron

// Tracks, sets and takes as they stand in the song: removed, renamed, in another order.

#include "edits/track_edits.h"

#include <gtest/gtest.h>

#include "edits/pitch_edits.h"
#include "store/project.h"
#include "store/song_json.h"
#include "support/gated.h"
#include "support/scratch.h"
#include "support/two_sets.h"
#include "takes/mic_names.h"

namespace ochron {
namespace {

using test::gated;
using test::TwoSets;

TEST(TrackEdits, ASetMovesWithItsTracksAndStopsAtTheEnds) {
  const TwoSets t;
  const auto down = gated(t.song, moveSet(t.song, t.kit, 1), t.pool);
  ASSERT_TRUE(down) << down.error().message;
  EXPECT_EQ(down->sets[0].id, t.bass);
  EXPECT_EQ(down->sets[1].id, t.kit);
  EXPECT_EQ(down->tracks[0].id, t.song.find(t.bass)->tracks.front());
  EXPECT_EQ(down->tracks.size(), t.song.tracks.size());
  EXPECT_EQ(t.heard(t.song.tracks[0].id, {Frames{}, Frames{100}}).size(), 100U);
  const auto back = moveSet(*down, t.kit, -1);
  ASSERT_TRUE(back);
  EXPECT_EQ(*back, t.song);
  EXPECT_FALSE(moveSet(t.song, t.kit, -1)) << "it is the first one";
  EXPECT_FALSE(moveSet(t.song, t.voice, 1));
}

TEST(TrackEdits, RemovingATakeTakesItsClipsAndBareTracksAndLeavesTheRest) {
  TwoSets t;
  // The voice plays another take as well.
  Song song = t.song;
  Take other = song.takes.front();
  other.id = song.newId<TakeTag>();
  other.name = "second";
  song.takes.push_back(other);
  for (auto& s : song.sets)
    if (s.id == t.voice) {
      ClipList clips = *s.clips;
      Clip more = clips.front();
      more.id = song.newId<ClipTag>();
      more.take = other.id;
      more.start = clips.front().end();
      clips.push_back(more);
      s.clips = clips;
    }
  ASSERT_TRUE(brokenRules(song).empty());
  const auto without = gated(song, removeTake(song, t.song.takes.front().id), t.pool);
  ASSERT_TRUE(without) << without.error().message;
  EXPECT_EQ(without->takes.size(), 1U);
  EXPECT_EQ(without->sets.size(), 1U) << "the kit and the bass held nothing else";
  EXPECT_EQ(without->sets[0].clips->size(), 1U);
  EXPECT_EQ(without->sets[0].clips->front().take, other.id);
  const auto empty = gated(*without, removeTake(*without, other.id), t.pool);
  ASSERT_TRUE(empty) << empty.error().message;
  EXPECT_TRUE(empty->tracks.empty() && empty->sets.empty() && empty->media.empty());
}

TEST(TrackEdits, NamesAreChangedAndNeverEmpty) {
  const TwoSets t;
  EXPECT_EQ(renameSet(t.song, t.bass, "Low end")->find(t.bass)->name, "Low end");
  EXPECT_EQ(renameTake(t.song, t.song.takes[0].id, "One")->takes[0].name, "One");
  EXPECT_FALSE(renameSet(t.song, t.bass, ""));
  EXPECT_FALSE(renameTake(t.song, t.song.takes[0].id, ""));
  EXPECT_FALSE(renameSet(t.song, SetId{99}, "x"));
}

TEST(TrackEdits, ImportedMicsStandInTheOrderOfAKit) {
  const std::vector<std::string> names{"Bass", "OH L", "Room", "Snare Top", "Tom 1", "Hat", "Kick In", "Voice", "OH R"};
  std::vector<std::string> ordered;
  for (const int i : inKitOrder(names)) ordered.push_back(names[static_cast<std::size_t>(i)]);
  EXPECT_EQ(ordered, (std::vector<std::string>{"Kick In", "Snare Top", "Tom 1", "Hat", "OH L", "OH R", "Room", "Bass",
                                               "Voice"}));
}

TEST(Saving, KeepsTheEarlierFileWhenWhatWouldBeWrittenCannotBeOpened) {
  const test::Scratch scratch;
  TwoSets t;
  const auto folder = scratch / "a.ochron";
  ASSERT_TRUE(saveProject(t.song, folder));
  Song odd = t.song;
  odd.tracks[0].gainDb = 1000;
  const auto refused = saveProject(odd, folder);
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("earlier file was kept"), std::string::npos) << refused.error().message;
  EXPECT_EQ(openProject(folder)->tracks[0].name, t.song.tracks[0].name);
  EXPECT_FALSE(autosaveProject(odd, folder));
}

TEST(Saving, TakesALineThatWasHeardMorePreciselyThanAFileSays) {
  const test::Scratch scratch;
  TwoSets t;
  SungLine line;
  line.track.values.assign(400, {220.123456789, 0.98765});
  line.notes = {{0.1, 0.5, 220.12345, false}};
  const auto song = setLine(t.song, t.song.takes.front().id, t.voice, line);
  ASSERT_TRUE(song);
  const auto saved = saveProject(*song, scratch / "a.ochron");
  ASSERT_TRUE(saved) << saved.error().message;
}

}  // namespace
}  // namespace ochron

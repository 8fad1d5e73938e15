// What stands beside a saved song, and what is kept of songs that were not saved.
#include <gtest/gtest.h>
#include <unistd.h>

#include <fstream>

#include "files/atomic_file.h"
#include "store/kept_copies.h"
#include "store/project.h"
#include "support/scratch.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using test::Scratch;

Song named(const std::string& name) {
  Song song;
  song.name = name;
  return song;
}

TEST(Autosave, OfTheSavedSongAsItIsIsNone) {
  const Scratch scratch;
  ASSERT_TRUE(saveProject(named("a"), scratch / "s.ochron"));
  ASSERT_TRUE(autosaveProject(named("a"), scratch / "s.ochron"));
  EXPECT_EQ(findAutosave(scratch / "s.ochron").state, Autosave::State::none);
}

TEST(Autosave, ThatGoesOnFromAnotherStateIsNotOfferedAsNewer) {
  const Scratch scratch;
  const auto folder = scratch / "s.ochron";
  ASSERT_TRUE(saveProject(named("a"), folder));
  ASSERT_TRUE(autosaveProject(named("a, edited"), folder));
  EXPECT_EQ(findAutosave(folder).state, Autosave::State::newer);
  // The saved song is changed behind its back (another machine, a copy put back).
  const auto kept = *readWholeFile(folder / kAutosaveFile, 1 << 20);
  ASSERT_TRUE(saveProject(named("b"), folder));
  std::ofstream(folder / kAutosaveFile) << kept;
  const auto found = findAutosave(folder);
  EXPECT_EQ(found.state, Autosave::State::other);
  ASSERT_TRUE(found.song);
  EXPECT_EQ(found.song->name, "a, edited");
}

TEST(Autosave, ABrokenOneLeavesTheGoodSongOpenable) {
  const Scratch scratch;
  const auto folder = scratch / "s.ochron";
  ASSERT_TRUE(saveProject(named("good"), folder));
  std::ofstream(folder / kAutosaveFile) << R"({"orthochron": 1, "na)";
  const auto found = findAutosave(folder);
  EXPECT_EQ(found.state, Autosave::State::damaged);
  EXPECT_FALSE(found.why.empty());
  EXPECT_EQ(openProject(folder)->name, "good");
}

TEST(KeptCopies, TakeTheAutosaveAwayOnlyWhenItStandsThere) {
  const Scratch scratch;
  const auto folder = scratch / "s.ochron";
  KeptCopies kept(scratch / "kept");
  ASSERT_TRUE(saveProject(named("Lantern"), folder));
  ASSERT_TRUE(autosaveProject(named("Lantern"), folder));
  auto edited = named("Lantern");
  edited.rate = 44'100;
  ASSERT_TRUE(autosaveProject(edited, folder));
  const auto copy = kept.takeFrom(folder, "s");
  ASSERT_TRUE(copy) << copy.error().message;
  EXPECT_EQ(copy->name, "Lantern");
  EXPECT_FALSE(fs::exists(folder / kAutosaveFile));
  EXPECT_EQ(openProject(copy->folder)->rate, 44'100);
  const auto list = kept.list();
  ASSERT_EQ(list.size(), 1u);
  EXPECT_EQ(list[0].name, "Lantern");
  EXPECT_NEAR(static_cast<double>(list[0].when), static_cast<double>(::time(nullptr)), 60);
}

TEST(KeptCopies, ThatCannotBeWrittenLeaveTheAutosaveWhereItIs) {
  const Scratch scratch;
  const auto folder = scratch / "s.ochron";
  ASSERT_TRUE(autosaveProject(named("x"), folder));
  std::ofstream(scratch / "kept") << "a file, not a folder";
  EXPECT_FALSE(KeptCopies(scratch / "kept").takeFrom(folder, "s"));
  EXPECT_EQ(findAutosave(folder).song->name, "x");
}

TEST(KeptCopies, ADamagedOneIsKeptAsItIs) {
  const Scratch scratch;
  const auto folder = scratch / "s.ochron";
  fs::create_directories(folder);
  const std::string damaged = "{\"orthochron\": 1, \"name\": \"half a so";
  std::ofstream(folder / kAutosaveFile) << damaged;
  const auto copy = KeptCopies(scratch / "kept").takeFrom(folder, "My song");
  ASSERT_TRUE(copy);
  EXPECT_TRUE(copy->damaged);
  EXPECT_EQ(copy->name, "My song");
  EXPECT_EQ(*readWholeFile(copy->folder / kAutosaveFile, 1 << 20), damaged);
  EXPECT_TRUE(KeptCopies(scratch / "kept").list().at(0).damaged);
}

TEST(KeptCopies, OfOneNameAndTimeHaveFoldersOfTheirOwnAndAreRemovedOneByOne) {
  const Scratch scratch;
  KeptCopies kept(scratch / "kept");
  for (int i = 0; i < 5; ++i) {
    ASSERT_TRUE(autosaveProject(named("one/name"), scratch / "s.ochron"));
    ASSERT_TRUE(kept.takeFrom(scratch / "s.ochron", "s"));
  }
  auto list = kept.list();
  ASSERT_EQ(list.size(), 5u);
  KeptCopies::remove(list[2]);
  EXPECT_EQ(kept.list().size(), 4u);
}

TEST(Project, ASongOfARecordingCannotBeWrittenOverIt) {
  const Scratch scratch;
  std::ofstream(scratch / "Voice.wav") << "sound";
  Song song = named("x");
  song.media.push_back({MediaId{1}, "Voice", (scratch / "Voice.wav").string(), "", 1, 48'000, Frames{10}, {}, {}});
  auto outputs = outputsOf(song);
  EXPECT_FALSE(outputs.add(scratch / "Voice.wav", "mix"));
  EXPECT_TRUE(outputs.add(scratch / "Mix.wav", "mix"));
}

TEST(Project, ACacheThatMayNotBeWrittenToIsElsewhere) {
  const Scratch scratch;
  fs::create_directories(scratch / "s.ochron");
  EXPECT_EQ(cacheFolderOf(scratch / "s.ochron"), scratch.path() / "s.ochron" / "cache");
  if (::geteuid() == 0) GTEST_SKIP() << "root may write everywhere";
  fs::permissions(scratch / "s.ochron", fs::perms::owner_read | fs::perms::owner_exec);
  EXPECT_NE(cacheFolderOf(scratch / "s.ochron"), scratch.path() / "s.ochron" / "cache");
  fs::permissions(scratch / "s.ochron", fs::perms::owner_all);
}

}  // namespace
}  // namespace ochron

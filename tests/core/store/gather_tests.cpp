// Recordings copied into the song's folder: checked, all or none.

#include "store/gather.h"

#include <gtest/gtest.h>

#include <fstream>

#include "edits/take_edits.h"
#include "files/content_id.h"
#include "support/scratch.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

struct Gather : ::testing::Test {
  Gather() {
    fs::create_directories(elsewhere);
    fs::create_directories(folder);
    ImportSettings settings;
    settings.takeName = "t";
    std::vector<IncomingFile> files;
    for (const char* name : {"a.wav", "b.wav"}) {
      std::ofstream(elsewhere / name) << "sound of " << name;
      const auto id = contentId(elsewhere / name, test::unwatched());
      files.push_back({name, (elsewhere / name).string(), *id, 1, 48'000, Frames{100}, {}, MicRole::none});
    }
    song = *importTake({}, files, settings);
  }
  test::Scratch scratch;
  fs::path elsewhere = scratch / "elsewhere";
  fs::path folder = scratch / "song.ochron";
  Song song;
  std::vector<fs::path> copied;
};

TEST_F(Gather, CopiesWhatLiesElsewhereAndNamesTheCopies) {
  EXPECT_EQ(lyingElsewhere(song, folder).size(), 2U);
  const auto next = gatherRecordings(song, folder, copied, test::unwatched());
  ASSERT_TRUE(next) << next.error().message;
  EXPECT_EQ(copied.size(), 2U);
  EXPECT_TRUE(lyingElsewhere(*next, folder).empty());
  for (const auto& m : next->media) EXPECT_EQ(*contentId(m.path, test::unwatched()), m.fingerprint);
  EXPECT_TRUE(fs::exists(elsewhere / "a.wav")) << "the originals stay";
  // Once more there is nothing to do.
  copied.clear();
  EXPECT_EQ(*gatherRecordings(*next, folder, copied, test::unwatched()), *next);
  EXPECT_TRUE(copied.empty());
}

TEST_F(Gather, AFileOfThatNameIsLeftAlone) {
  fs::create_directories(folder / "media");
  std::ofstream(folder / "media" / "a.wav") << "mine";
  const auto next = gatherRecordings(song, folder, copied, test::unwatched());
  ASSERT_TRUE(next);
  std::string text;
  std::getline(std::ifstream(folder / "media" / "a.wav"), text);
  EXPECT_EQ(text, "mine");
  EXPECT_NE(next->media[0].path, (folder / "media" / "a.wav").string());
}

TEST_F(Gather, OneThatIsMissingOrAnotherLeavesNoCopyBehind) {
  std::ofstream(elsewhere / "b.wav") << "another";
  const auto replaced = gatherRecordings(song, folder, copied, test::unwatched());
  ASSERT_FALSE(replaced);
  EXPECT_NE(replaced.error().message.find("b.wav"), std::string::npos);
  EXPECT_TRUE(fs::is_empty(folder / "media"));
  fs::remove(elsewhere / "b.wav");
  EXPECT_FALSE(gatherRecordings(song, folder, copied, test::unwatched()));
  EXPECT_TRUE(fs::is_empty(folder / "media"));
  EXPECT_TRUE(copied.empty());
}

}  // namespace
}  // namespace ochron

// The files of one run: together or not at all, and never over what the run reads.
#include "files/outputs.h"

#include <gtest/gtest.h>
#include <sys/stat.h>

#include <fstream>
#include <sstream>

#include "files/atomic_file.h"
#include "support/scratch.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using test::Scratch;

std::string textOf(const fs::path& file) {
  std::stringstream s;
  s << std::ifstream(file).rdbuf();
  return s.str();
}

void put(const fs::path& file, const std::string& text) { std::ofstream(file) << text; }

std::size_t countIn(const fs::path& folder) {
  return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), {}));
}

TEST(Outputs, AppearTogetherAtTheEndAndNotBefore) {
  const Scratch scratch;
  put(scratch / "b", "old b");
  Outputs out;
  ASSERT_TRUE(out.add(scratch / "a", "new a"));
  ASSERT_TRUE(out.add(scratch / "b", "new b"));
  ASSERT_TRUE(out.add(scratch / "deep" / fs::path("folder") / "c", "new c"));
  EXPECT_FALSE(fs::exists(scratch / "a"));
  EXPECT_EQ(textOf(scratch / "b"), "old b");
  ASSERT_TRUE(out.commit());
  EXPECT_EQ(textOf(scratch / "a"), "new a");
  EXPECT_EQ(textOf(scratch / "b"), "new b");
  EXPECT_EQ(textOf(scratch.path() / "deep/folder/c"), "new c");
  EXPECT_EQ(countIn(scratch.path()), 3u) << "nothing else is left over";
}

TEST(Outputs, WithoutCommitNothingIsLeftNotEvenAFolder) {
  const Scratch scratch;
  put(scratch / "b", "old b");
  {
    Outputs out;
    ASSERT_TRUE(out.add(scratch / "b", "new b"));
    ASSERT_TRUE(out.add(scratch.path() / "made" / "c", "c"));
  }
  EXPECT_EQ(textOf(scratch / "b"), "old b");
  EXPECT_EQ(countIn(scratch.path()), 1u);
}

TEST(Outputs, OneThatCannotBePlacedBringsTheEarlierOnesBack) {
  const Scratch scratch;
  put(scratch / "a", "old a");
  Outputs out;
  ASSERT_TRUE(out.add(scratch / "a", "new a"));
  ASSERT_TRUE(out.add(scratch / "b", "new b"));
  ASSERT_TRUE(out.add(scratch / "c", "new c"));
  fs::create_directory(scratch / "c");  // meanwhile a folder stands in the way
  put(scratch.path() / "c" / "inside", "mine");
  const auto done = out.commit();
  ASSERT_FALSE(done);
  EXPECT_NE(done.error().message.find((scratch / "c").string()), std::string::npos) << done.error().message;
  EXPECT_EQ(textOf(scratch / "a"), "old a");
  EXPECT_FALSE(fs::exists(scratch / "b"));
  EXPECT_EQ(textOf(scratch.path() / "c" / "inside"), "mine");
}

TEST(Outputs, NoOutputIsAFileTheRunReadsByWhateverName) {
  const Scratch scratch;
  const auto input = scratch / "Voice.wav";
  put(input, "the recording");
  fs::create_symlink(input, scratch / "link.wav");
  fs::create_hard_link(input, scratch / "second name.wav");
  fs::create_directory(scratch / "folder");
  fs::create_symlink(scratch.path(), scratch / "folder link");
  for (const auto& name :
       {input, scratch / "link.wav", scratch / "second name.wav", scratch.path() / "folder" / ".." / "Voice.wav",
        scratch.path() / "folder link" / "Voice.wav", fs::relative(input)}) {
    Outputs out;
    out.protect(input);
    const auto staged = out.stage(name);
    ASSERT_FALSE(staged) << name;
    EXPECT_NE(staged.error().message.find(name.filename().string()), std::string::npos) << staged.error().message;
  }
  Outputs byLink;
  byLink.protect(scratch / "link.wav");
  EXPECT_FALSE(byLink.stage(input)) << "what a link names is read";
  EXPECT_EQ(textOf(input), "the recording");
}

TEST(Outputs, TwoOutputsOfOneRunHaveTwoNames) {
  const Scratch scratch;
  Outputs out;
  ASSERT_TRUE(out.add(scratch / "x", "1"));
  EXPECT_FALSE(out.add(scratch / "x", "2"));
  EXPECT_FALSE(out.add(scratch.path() / "." / "x", "3"));
}

TEST(Outputs, WhatIsNoOrdinaryFileIsRefused) {
  const Scratch scratch;
  fs::create_directory(scratch / "folder");
  Outputs out;
  EXPECT_FALSE(out.stage(scratch / "folder"));
  EXPECT_FALSE(out.stage("/dev/null"));
  EXPECT_FALSE(out.stage(""));
  EXPECT_FALSE(out.stage(scratch.path() / "folder" / ""));
}

TEST(Outputs, NamesOf250BytesCanBeWritten) {
  const Scratch scratch;
  const auto file = scratch / std::string(250, 'n');
  Outputs out;
  ASSERT_TRUE(out.add(file, "long"));
  ASSERT_TRUE(out.commit());
  EXPECT_EQ(textOf(file), "long");
}

TEST(AtomicFile, KeepsTheModeAndFollowsLinks) {
  const Scratch scratch;
  put(scratch / "real", "old");
  fs::permissions(scratch / "real", fs::perms::owner_read | fs::perms::owner_write | fs::perms::group_read);
  fs::create_symlink("real", scratch / "link");
  ASSERT_TRUE(writeAtomically(scratch / "link", "new"));
  EXPECT_TRUE(fs::is_symlink(scratch / "link"));
  EXPECT_EQ(textOf(scratch / "real"), "new");
  EXPECT_EQ(fs::status(scratch / "real").permissions(),
            fs::perms::owner_read | fs::perms::owner_write | fs::perms::group_read);
}

TEST(AtomicFile, AWriteProtectedFileStaysAsItIs) {
  const Scratch scratch;
  put(scratch / "song.json", "mine");
  fs::permissions(scratch / "song.json", fs::perms::owner_read);
  const auto done = writeAtomically(scratch / "song.json", "other");
  ASSERT_FALSE(done);
  EXPECT_NE(done.error().message.find("song.json"), std::string::npos);
  EXPECT_EQ(textOf(scratch / "song.json"), "mine");
  EXPECT_EQ(fs::status(scratch / "song.json").permissions(), fs::perms::owner_read);
}

TEST(AtomicFile, WhatIsSetAsideKeepsItsContentUnderADatedName) {
  const Scratch scratch;
  for (int i = 0; i < 3; ++i) {
    put(scratch / "fades.json", "damaged " + std::to_string(i));
    const auto aside = setAside(scratch / "fades.json");
    ASSERT_TRUE(aside);
    EXPECT_NE(aside->string().find("damaged"), std::string::npos);
    EXPECT_EQ(textOf(*aside), "damaged " + std::to_string(i));
    EXPECT_FALSE(fs::exists(scratch / "fades.json"));
  }
  EXPECT_EQ(countIn(scratch.path()), 3u);
}

TEST(AtomicFile, PipesAndDevicesAreNotOpened) {
  const Scratch scratch;
  const auto pipe = scratch / "pipe";
  ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_FALSE(checkReadable(pipe)) << "opening it would wait for a writer";
  EXPECT_FALSE(readWholeFile(pipe, 100));
  EXPECT_FALSE(checkReadable("/dev/zero"));
  EXPECT_FALSE(checkReadable(scratch.path()));
  EXPECT_EQ(checkReadable(scratch / "none").error().kind, ErrorKind::notFound);
}

TEST(Outputs, LeaveWriteProtectedFilesAloneAndExistingOnesWhenAsked) {
  const Scratch scratch;
  std::ofstream(scratch / "a") << "old";
  std::ofstream(scratch / "b") << "old";
  std::filesystem::permissions(scratch / "a", std::filesystem::perms::owner_read);
  Outputs outputs;
  const auto refused = outputs.stage(scratch / "a");
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("write-protected"), std::string::npos);
  EXPECT_TRUE(outputs.stage(scratch / "b"));
  Outputs careful;
  careful.keepExisting();
  EXPECT_FALSE(careful.stage(scratch / "b"));
  EXPECT_TRUE(careful.stage(scratch / "c"));
  EXPECT_EQ(Outputs::existing({scratch / "b", scratch / "c"}), std::vector{scratch / "b"});
}

}  // namespace
}  // namespace ochron

// What is read is what the content says: recordings and copies that are changed at any moment are noticed.

#include <gtest/gtest.h>
#include <sys/stat.h>

#include <fstream>

#include "files/content_id.h"
#include "media/pool.h"
#include "render/made_store.h"
#include "support/recordings.h"
#include "support/scratch.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using test::bytesOf;
using test::crackle;
using test::decode;
using test::put;
using test::Scratch;
using test::writeSound;

void overwrite(const fs::path& file) {
  std::fstream(file, std::ios::binary | std::ios::in | std::ios::out).seekp(1'000).write("zz", 2);
}

class Watched : public ::testing::Test {
 protected:
  Watched() {
    writeSound(file, {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, crackle(5'000));
    fs::last_write_time(file, fs::file_time_type::clock::now() - std::chrono::hours(1));
    const auto media = decode(file, scratch / "cache");
    EXPECT_TRUE(media && (*media)->inPlace());
    if (media) pool[MediaId{1}] = *media;
  }
  const DecodedMedia& media() const { return *pool.at(MediaId{1}); }

  Scratch scratch;
  const fs::path file = scratch / "a.wav";
  MediaPool pool;
};

TEST_F(Watched, WhatIsOnlyRenamedOrGivenOtherRightsIsAsItWas) {
  fs::rename(file, scratch / "b.wav");
  EXPECT_TRUE(stillAsRead(pool));
  fs::rename(scratch / "b.wav", file);
  fs::permissions(file, fs::perms::owner_read);
  EXPECT_TRUE(stillAsRead(pool));
  EXPECT_FALSE(media().broken());
  fs::remove(file);
  EXPECT_TRUE(stillAsRead(pool)) << "the mapping keeps what was removed";
}

TEST_F(Watched, WrittenToUnderAnotherNameIsNoticed) {
  fs::rename(file, scratch / "b.wav");
  overwrite(scratch / "b.wav");
  EXPECT_TRUE(media().broken());
  EXPECT_FALSE(stillAsRead(pool));
}

TEST_F(Watched, WrittenToAfterItWasRemovedIsNoticed) {
  std::fstream open(file, std::ios::binary | std::ios::in | std::ios::out);
  fs::remove(file);
  open.seekp(1'000).write("zz", 2);
  open.flush();
  EXPECT_FALSE(stillAsRead(pool));
}

TEST_F(Watched, WrittenToWithItsTimePutBackIsNoticed) {
  const auto time = fs::last_write_time(file);
  overwrite(file);
  fs::last_write_time(file, time);
  EXPECT_FALSE(stillAsRead(pool));
}

TEST_F(Watched, ANewVersionInItsPlaceIsNoticed) {
  writeSound(scratch / "new.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, crackle(6'000));
  fs::rename(scratch / "new.wav", file);
  EXPECT_TRUE(media().broken());
  EXPECT_FALSE(stillAsRead(pool));
}

TEST(DecodedCopies, AreRefusedUnderAnothersName) {
  const Scratch scratch;
  writeSound(scratch / "a.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, crackle(5'000));
  writeSound(scratch / "b.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, crackle(4'000));
  const auto a = decode(scratch / "a.flac", scratch / "cache");
  ASSERT_TRUE(a) << a.error().message;
  const auto copyOfA = fs::directory_iterator(scratch / "cache")->path();
  ASSERT_TRUE(decode(scratch / "b.flac", scratch / "cache"));
  for (const auto& e : fs::directory_iterator(scratch / "cache"))
    if (e.path() != copyOfA) fs::copy_file(copyOfA, e.path(), fs::copy_options::overwrite_existing);
  const auto b = decode(scratch / "b.flac", scratch / "cache");
  ASSERT_TRUE(b) << b.error().message;
  EXPECT_EQ((*b)->length().value, 4'000) << "made again";
}

TEST(DecodedCopies, AreNotMadeOfAFileThatIsNotWhatItWasHashedAs) {
  const Scratch scratch;
  for (const char* name : {"a.flac", "a.wav"}) {
    const bool wav = std::string(name).ends_with("wav");
    const WriteFormat format{wav ? FileFormat::wav : FileFormat::flac, SampleFormat::pcm16, 48'000, 1};
    writeSound(scratch / name, format, crackle(5'000));
    Progress progress;
    const auto content = contentId(scratch / name, progress);
    ASSERT_TRUE(content);
    const auto was = bytesOf(scratch / name);
    writeSound(scratch / name, format, std::vector<float>(5'000, 0.5F));
    const auto wrong = decodeMedia(scratch / name, *content, {scratch / "cache"}, progress);
    ASSERT_FALSE(wrong) << name;
    EXPECT_NE(wrong.error().message.find("changed while it was read"), std::string::npos);
    put(scratch / name, was);
    const auto right = decodeMedia(scratch / name, *content, {scratch / "cache"}, progress);
    ASSERT_TRUE(right) << right.error().message;
    EXPECT_NE((*right)->channel(0)[100], 0.5F) << "nothing wrong stands under the right name";
  }
}

TEST(DecodedCopies, WrittenToWhileTheyAreMappedAreNotExported) {
  const Scratch scratch;
  writeSound(scratch / "a.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, crackle(5'000));
  const auto media = decode(scratch / "a.flac", scratch / "cache");
  ASSERT_TRUE(media);
  const MediaPool pool{{MediaId{1}, *media}};
  EXPECT_TRUE(stillAsRead(pool));
  const auto copy = fs::directory_iterator(scratch / "cache")->path();
  std::fstream(copy, std::ios::binary | std::ios::in | std::ios::out).seekp(8'000).write("zzzz", 4);
  EXPECT_FALSE(stillAsRead(pool));
}

TEST(MadeParts, UnderAnothersNameOrWrittenToAreNotPlayed) {
  const Scratch scratch;
  const MadeKey a{"aaaa", true};
  const MadeKey b{"bbbb", true};
  {
    MadeStore store(scratch.path());
    store.keep(a, 48'000, {std::vector<float>(3'000, 0.25F)});
    store.keep(b, 48'000, {std::vector<float>(500, 0.5F)});
    EXPECT_TRUE(store.stillAsKept());
    std::fstream(scratch / "made-bbbb.decoded", std::ios::binary | std::ios::in | std::ios::out)
        .seekp(5'000)
        .write("zzzz", 4);
    EXPECT_FALSE(store.stillAsKept());
  }
  fs::copy_file(scratch / "made-aaaa.decoded", scratch / "made-bbbb.decoded", fs::copy_options::overwrite_existing);
  MadeStore again(scratch.path());
  EXPECT_FALSE(again.find(b)) << "it is made anew";
  EXPECT_TRUE(again.find(a));
}

TEST(DecodedCopies, OfLongSilenceTakeNoRoom) {
  const Scratch scratch;
  auto writer = DecodedFileWriter::create(scratch / "silence.decoded", 48'000, 1, 48'000 * 600);
  ASSERT_TRUE(writer);
  std::vector<float> block(48'000, 0.0F);
  for (int i = 0; i < 600; ++i) {
    block.back() = i == 599 ? 0.5F : 0.0F;
    ASSERT_TRUE(writer->add(block));
  }
  ASSERT_TRUE(writer->finish(48'000 * 600, {}));
  struct stat st {};
  ASSERT_EQ(::stat((scratch / "silence.decoded").c_str(), &st), 0);
  EXPECT_LT(st.st_blocks * 512, st.st_size / 4);
  const auto media = DecodedMedia::map(scratch / "silence.decoded");
  ASSERT_TRUE(media) << media.error().message;
  EXPECT_EQ((*media)->channel(0)[48'000 * 600 - 1], 0.5F);
  EXPECT_EQ((*media)->channel(0)[12'345], 0.0F);
}

}  // namespace
}  // namespace ochron

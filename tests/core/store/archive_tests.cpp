// A song with all its recordings in one file, and back; recordings that nothing uses set aside.

#include "store/archive.h"

#include <gtest/gtest.h>
#include <zip.h>

#include <fstream>
#include <random>

#include "edits/media_edits.h"
#include "edits/take_edits.h"
#include "files/content_id.h"
#include "store/project.h"
#include "support/cli.h"
#include "support/scratch.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

struct Archives : ::testing::Test {
  Archives() {
    std::vector<IncomingFile> items;
    for (const char* name : {"a/Bass.wav", "b/Bass.wav"}) {
      fs::create_directories((scratch / name).parent_path());
      std::vector<float> x(48'000);
      for (std::size_t i = 0; i < x.size(); ++i)
        x[i] = 0.2F * std::sin(static_cast<float>(i) * (name[0] == 'a' ? 0.02F : 0.05F));
      test::writeWav(scratch / name, x);
      const auto id = contentId(scratch / name, test::unwatched());
      items.push_back({"Bass", (scratch / name).string(), *id, 1, 48'000, Frames{48'000}, {}, MicRole::none});
    }
    ImportSettings settings;
    settings.takeName = "take";
    song = *importTake(song, items, settings);
    song.name = "Tides / 1";
  }
  Result<void> write(const fs::path& file, ArchivePacking packing = ArchivePacking::none) {
    Progress progress;
    Outputs outputs;
    auto ok = writeArchive(song, file, outputs, progress, packing);
    return ok ? outputs.commit() : ok;
  }
  Result<Song> unpack(const fs::path& file, const fs::path& folder) {
    Progress progress;
    return unpackArchive(file, folder, progress);
  }
  /// A ZIP of some entries.
  fs::path zipOf(const std::vector<std::pair<std::string, std::string>>& entries) {
    const auto file = scratch / "made.zip";
    int code = 0;
    auto* z = zip_open(file.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code);
    for (const auto& [name, text] : entries)
      zip_file_add(z, name.c_str(), zip_source_buffer(z, text.data(), text.size(), 0), ZIP_FL_ENC_UTF_8);
    EXPECT_EQ(zip_close(z), 0);
    return file;
  }

  test::Scratch scratch;
  Song song;
};

std::vector<float> samplesOf(const fs::path& file) {
  auto reader = AudioFileReader::open(file);
  EXPECT_TRUE(reader) << file;
  std::vector<float> out(static_cast<std::size_t>(reader->info().length.value * reader->info().channels));
  EXPECT_TRUE(reader->read(out));
  return out;
}

TEST_F(Archives, WithRecordingsAsFlacHoldThemToTheBitAndWhatFlacCannotHoldAsItIs) {
  std::mt19937 dice(3);
  std::uniform_real_distribution<float> noise(-0.9F, 0.9F);
  const auto rewrite = [&](std::size_t i, SampleFormat samples, int channels) {
    auto& m = song.media[i];
    auto writer = AudioFileWriter::create(m.path, {FileFormat::wav, samples, 48'000, channels, Frames{48'000}});
    ASSERT_TRUE(writer);
    std::vector<float> x(static_cast<std::size_t>(48'000 * channels));
    for (std::size_t k = 0; k < x.size(); ++k)
      x[k] = 0.5F * std::sin(static_cast<float>(k / static_cast<std::size_t>(channels)) * 0.01F) + 1e-4F * noise(dice);
    ASSERT_TRUE(writer->write(x));
    ASSERT_TRUE(writer->finish());
    m.channels = channels;
    m.fingerprint = *contentId(m.path, test::unwatched());
  };
  rewrite(0, SampleFormat::pcm24, 2);
  rewrite(1, SampleFormat::float32, 1);
  ASSERT_TRUE(write(scratch / "packed.zip", ArchivePacking::flac));
  ASSERT_TRUE(write(scratch / "plain.zip"));
  EXPECT_LT(fs::file_size(scratch / "packed.zip"), fs::file_size(scratch / "plain.zip"));
  const auto again = unpack(scratch / "packed.zip", scratch / "Packed.ochron");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(again->sets, song.sets);
  EXPECT_TRUE(again->media[0].path.ends_with(".flac")) << again->media[0].path;
  EXPECT_TRUE(again->media[1].path.ends_with(".wav")) << "a float file stays";
  EXPECT_EQ(again->media[1].fingerprint, song.media[1].fingerprint);
  for (std::size_t i = 0; i < 2; ++i) {
    EXPECT_EQ(samplesOf(again->media[i].path), samplesOf(song.media[i].path)) << "to the bit";
    EXPECT_EQ(*contentId(again->media[i].path, test::unwatched()), again->media[i].fingerprint);
  }
  EXPECT_TRUE(openProject(scratch / "Packed.ochron"));
}

TEST_F(Archives, OpenAgainToAnEqualSongElsewhere) {
  ASSERT_TRUE(write(scratch / "x.zip"));
  fs::rename(scratch / "a", scratch / "gone");  // nothing of the first place is needed
  const auto again = unpack(scratch / "x.zip", scratch / "other" / "Tides.ochron");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(again->sets, song.sets);
  EXPECT_EQ(again->takes, song.takes);
  ASSERT_EQ(again->media.size(), 2U);
  EXPECT_NE(again->media[0].path, again->media[1].path) << "two of one name";
  for (const auto& m : again->media) {
    EXPECT_TRUE(m.path.starts_with((scratch / "other" / "Tides.ochron" / "media").string())) << m.path;
    EXPECT_EQ(*contentId(m.path, test::unwatched()), m.fingerprint);
  }
  EXPECT_TRUE(openProject(scratch / "other" / "Tides.ochron"));
}

TEST_F(Archives, AreRefusedWithoutARecordingAndWithAnotherOne) {
  test::writeWav(scratch / "a/Bass.wav", std::vector<float>(500, 0.1F));
  const auto other = write(scratch / "x.zip");
  ASSERT_FALSE(other);
  EXPECT_NE(other.error().message.find("not the recording"), std::string::npos) << other.error().message;
  fs::remove(scratch / "a/Bass.wav");
  EXPECT_FALSE(write(scratch / "x.zip"));
  EXPECT_FALSE(fs::exists(scratch / "x.zip"));
}

TEST_F(Archives, OfABadKindAreRefusedAndLeaveNothing) {
  const std::vector<std::vector<std::pair<std::string, std::string>>> bad{
      {{"x.ochron/../../evil", "x"}, {"x.ochron/song.json", "{}"}},
      {{"/etc/evil", "x"}},
      {{"x.ochron/media/a.wav", "x"}},
      {{"x.ochron/song.json", "not a song"}},
      {{"song.json", "{}"}}};
  for (const auto& entries : bad) {
    const auto unpacked = unpack(zipOf(entries), scratch / "out");
    ASSERT_FALSE(unpacked) << entries.front().first;
    EXPECT_FALSE(unpacked.error().message.empty());
    EXPECT_FALSE(fs::exists(scratch / "out"));
    EXPECT_FALSE(fs::exists(scratch.path().parent_path() / "evil"));
  }
  std::ofstream(scratch / "no.zip") << "this is no zip";
  EXPECT_FALSE(unpack(scratch / "no.zip", scratch / "out"));
  EXPECT_FALSE(unpack(scratch / "none.zip", scratch / "out"));
  for (const auto& e : fs::directory_iterator(scratch.path()))
    EXPECT_EQ(e.path().filename().string().find(".part"), std::string::npos) << e.path();
}

TEST_F(Archives, ThatAreDamagedOrCutShortAreRefused) {
  ASSERT_TRUE(write(scratch / "x.zip"));
  const auto size = fs::file_size(scratch / "x.zip");
  fs::copy_file(scratch / "x.zip", scratch / "cut.zip");
  fs::resize_file(scratch / "cut.zip", size / 2);
  EXPECT_FALSE(unpack(scratch / "cut.zip", scratch / "out"));
  std::fstream f(scratch / "x.zip", std::ios::in | std::ios::out | std::ios::binary);
  f.seekp(static_cast<std::streamoff>(size / 2));
  f.write("DAMAGE", 6);
  f.close();
  const auto damaged = unpack(scratch / "x.zip", scratch / "out");
  ASSERT_FALSE(damaged);
  EXPECT_FALSE(fs::exists(scratch / "out"));
}

TEST_F(Archives, NeverUnpackOverWhatIsThere) {
  ASSERT_TRUE(write(scratch / "x.zip"));
  fs::create_directories(scratch / "full");
  std::ofstream(scratch / "full" / "mine.txt") << "mine";
  EXPECT_FALSE(unpack(scratch / "x.zip", scratch / "full"));
  EXPECT_TRUE(fs::exists(scratch / "full" / "mine.txt"));
}

TEST_F(Archives, ACancelLeavesNothing) {
  Progress progress;
  progress.cancel();
  {
    Outputs outputs;
    EXPECT_FALSE(writeArchive(song, scratch / "x.zip", outputs, progress));
  }
  EXPECT_FALSE(fs::exists(scratch / "x.zip"));
  ASSERT_TRUE(write(scratch / "x.zip"));
  EXPECT_FALSE(unpackArchive(scratch / "x.zip", scratch / "out", progress));
  EXPECT_FALSE(fs::exists(scratch / "out"));
}

TEST_F(Archives, WhatNoSongUsesIsSetAsideAndNothingElse) {
  const auto folder = scratch / "song.ochron";
  ASSERT_TRUE(saveProject(song, folder));
  fs::create_directories(folder / "media");
  for (const char* name : {"used.wav", "old.wav", "older.wav"}) std::ofstream(folder / "media" / name) << name;
  auto now = song;
  now.media[0].path = (folder / "media" / "used.wav").string();
  auto before = song;
  before.media[0].path = (folder / "media" / "old.wav").string();
  const auto files = unusedFiles(folder, {now, before});
  ASSERT_EQ(files.size(), 1U);
  EXPECT_EQ(files.front().filename(), "older.wav");
  ASSERT_TRUE(setAsideUnused(folder, files));
  EXPECT_TRUE(fs::exists(folder / "set aside" / "older.wav"));
  EXPECT_TRUE(fs::exists(folder / "media" / "old.wav"));
  std::ofstream(folder / "media" / "older.wav") << "again";
  ASSERT_TRUE(setAsideUnused(folder, unusedFiles(folder, {now, before})));
  EXPECT_TRUE(fs::exists(folder / "set aside" / "older 2.wav")) << "what is there stays";
}

}  // namespace
}  // namespace ochron

// Files past 4 GiB: written as RF64 from the start, and read back by hand as EBU Tech 3306 says.
#include <gtest/gtest.h>

#include <cstring>
#include <fstream>

#include "media/audio_file.h"
#include "support/scratch.h"

namespace ochron {
namespace {

struct LargeFile : ::testing::Test {
  test::Scratch scratch;
};

std::uint64_t littleAt(const std::vector<char>& bytes, std::size_t at, int count) {
  std::uint64_t out = 0;
  for (int i = count; i-- > 0;) out = out << 8 | static_cast<unsigned char>(bytes[at + static_cast<std::size_t>(i)]);
  return out;
}

std::string nameAt(const std::vector<char>& bytes, std::size_t at) { return {bytes.data() + at, 4}; }

/// The head of a file, and where its sound begins.
struct Head {
  std::vector<char> bytes;
  std::size_t data = 0;
  std::vector<std::string> chunks;
};
Head headOf(const std::filesystem::path& path) {
  Head out;
  out.bytes.resize(8'192);
  std::ifstream(path, std::ios::binary).read(out.bytes.data(), std::ssize(out.bytes));
  for (std::size_t at = 12; at + 8 < out.bytes.size();) {
    out.chunks.push_back(nameAt(out.bytes, at));
    out.data = at + 8;
    if (out.chunks.back() == "data") return out;
    at += 8 + littleAt(out.bytes, at + 4, 4);
  }
  ADD_FAILURE() << "no sound in " << path;
  return out;
}

TEST_F(LargeFile, AWavOfMoreThan4GiBIsAnRf64FileFromItsStart) {
  constexpr std::int64_t kFrames = (std::int64_t{1} << 32) / 8 + 1'000;  // two channels of 4 bytes
  if (std::filesystem::space(scratch.path()).available < std::uint64_t{20} << 30)
    GTEST_SKIP() << "writes more than 4 GiB: needs 20 GiB of room on a real disk";
  const auto file = scratch / "long.wav";
  auto writer = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::float32, 48'000, 2, Frames{kFrames}},
                                        {0, {{Frames{4'800}, "verse"}}, 120.0});
  ASSERT_TRUE(writer) << writer.error().message;
  std::vector<float> block(1 << 21, 0.0F);
  for (std::int64_t done = 0; done < kFrames;) {
    const auto n = std::min<std::int64_t>(std::ssize(block) / 2, kFrames - done);
    if (done + n == kFrames) block[static_cast<std::size_t>(2 * n - 1)] = 0.5F;
    ASSERT_TRUE(writer->write(std::span(block).first(static_cast<std::size_t>(2 * n))));
    done += n;
  }
  const auto ended = writer->finish();
  ASSERT_TRUE(ended) << ended.error().message;
  const auto head = headOf(file);
  EXPECT_EQ(nameAt(head.bytes, 0), "RF64");
  ASSERT_EQ(head.chunks.front(), "ds64");
  EXPECT_EQ(littleAt(head.bytes, 20, 8), std::filesystem::file_size(file) - 8);
  EXPECT_EQ(littleAt(head.bytes, 28, 8), static_cast<std::uint64_t>(kFrames) * 8);
  EXPECT_NE(std::find(head.chunks.begin(), head.chunks.end(), "cue "), head.chunks.end());
  std::ifstream raw(file, std::ios::binary);
  raw.seekg(static_cast<std::streamoff>(head.data) + kFrames * 8 - 4);
  float last = 0;
  raw.read(reinterpret_cast<char*>(&last), 4);
  EXPECT_EQ(last, 0.5F);
  auto reader = AudioFileReader::open(file);
  ASSERT_TRUE(reader) << reader.error().message;
  EXPECT_EQ(reader->info().length, Frames{kFrames});
}

TEST_F(LargeFile, AWavThatStaysUnder4GiBIsAnOrdinaryOne) {
  const auto file = scratch / "short.wav";
  auto writer = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1, Frames{100}});
  ASSERT_TRUE(writer);
  ASSERT_TRUE(writer->write(std::vector<float>(100, 0.25F)));
  ASSERT_TRUE(writer->finish());
  EXPECT_EQ(nameAt(headOf(file).bytes, 0), "RIFF");
}

TEST_F(LargeFile, AnAiffThatCannotHoldItIsRefusedBeforeAnythingIsWritten) {
  const auto file = scratch / "long.aiff";
  const auto writer = AudioFileWriter::create(
      file, {FileFormat::aiff, SampleFormat::pcm24, 96'000, 2, Frames{std::int64_t{96'000} * 3'600 * 3}});
  ASSERT_FALSE(writer);
  EXPECT_NE(writer.error().message.find("4 GiB"), std::string::npos) << writer.error().message;
  EXPECT_TRUE(std::filesystem::is_empty(scratch.path()));
}

}  // namespace
}  // namespace ochron

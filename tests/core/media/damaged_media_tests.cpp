// Recordings and decoded copies that are not what they claim: what is good is used, and nothing wrong is heard.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <random>

#include "files/atomic_file.h"
#include "files/content_id.h"
#include "media/cache_folder.h"
#include "media/decoded.h"
#include "media/header_check.h"
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

struct Kind {
  const char* name;
  FileFormat format;
};
std::ostream& operator<<(std::ostream& out, const Kind& k) { return out << k.name; }
class CutFile : public ::testing::TestWithParam<Kind> {};

TEST_P(CutFile, IsRefusedWithASentenceAndItsGoodPartIsUsedWhenAskedFor) {
  const Scratch scratch;
  const auto [name, format] = GetParam();
  const auto samples = crackle(40'000);
  writeSound(scratch / name, {format, SampleFormat::pcm16, 48'000, 1}, samples);
  const auto whole = bytesOf(scratch / name);
  put(scratch / name, whole.substr(0, whole.size() * 6 / 10));
  const auto refused = decode(scratch / name, scratch / "cache");
  ASSERT_FALSE(refused);
  EXPECT_EQ(refused.error().kind, ErrorKind::damaged) << refused.error().message;
  EXPECT_NE(refused.error().message.find(name), std::string::npos);
  const auto part = decode(scratch / name, scratch / "cache", Damaged::accept);
  ASSERT_TRUE(part) << part.error().message;
  ASSERT_TRUE((*part)->damage());
  const auto good = static_cast<std::size_t>((*part)->damage()->from);
  EXPECT_GT(good, 15'000u);
  EXPECT_LT(good, 26'000u);
  for (std::size_t i = 0; i < good; ++i) ASSERT_EQ((*part)->channel(0)[i], samples[i]) << i;
}
INSTANTIATE_TEST_SUITE_P(Formats, CutFile,
                         ::testing::Values(Kind{"cut.wav", FileFormat::wav}, Kind{"cut.flac", FileFormat::flac},
                                           Kind{"cut.aiff", FileFormat::aiff}),
                         [](const auto& p) { return std::string(p.param.name).substr(4); });

TEST(DamagedRecording, ABadPlaceInTheMiddleLeavesWhatComesBefore) {
  const Scratch scratch;
  const auto samples = crackle(400'000);
  writeSound(scratch / "v.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, samples);
  auto bytes = bytesOf(scratch / "v.flac");
  for (std::size_t i = 0; i < 1000; ++i) bytes[bytes.size() / 2 + i] = 0x55;
  put(scratch / "v.flac", bytes);
  EXPECT_EQ(decode(scratch / "v.flac", scratch / "cache").error().kind, ErrorKind::damaged);
  const auto part = decode(scratch / "v.flac", scratch / "cache", Damaged::accept);
  ASSERT_TRUE(part) << part.error().message;
  ASSERT_TRUE((*part)->damage());
  const auto good = static_cast<std::size_t>((*part)->damage()->from);
  EXPECT_GT(good, 150'000u);
  EXPECT_LT(good, 210'000u);
  for (std::size_t i = 0; i < good; ++i) ASSERT_EQ((*part)->channel(0)[i], samples[i]) << i;
  // The copy in the cache still knows: asked again without leave it is refused again.
  EXPECT_EQ(decode(scratch / "v.flac", scratch / "cache").error().kind, ErrorKind::damaged);
}

TEST(DamagedRecording, AClaimOfManySamplesTakesNoSpace) {
  const Scratch scratch;
  writeSound(scratch / "c.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, crackle(3000));
  auto bytes = bytesOf(scratch / "c.flac");
  // STREAMINFO (FLAC format, 8.2): 36 bits of total samples in bytes 21 to 25.
  bytes[21] = static_cast<char>(bytes[21] | 0x0f);
  for (int i = 22; i <= 25; ++i) bytes[static_cast<std::size_t>(i)] = static_cast<char>(0xff);
  put(scratch / "c.flac", bytes);
  const auto r = decode(scratch / "c.flac", scratch / "cache");
  ASSERT_FALSE(r);
  std::uintmax_t used = 0;
  if (fs::exists(scratch / "cache"))
    for (const auto& e : fs::recursive_directory_iterator(scratch / "cache")) used += e.file_size();
  EXPECT_LT(used, std::uintmax_t{1} << 20);
}

TEST(DamagedRecording, NoFormatHoldsMoreThanItsBytesCan) {
  for (const auto packing : {Packing::flac, Packing::vorbisOrOpus, Packing::mpeg}) {
    EXPECT_GE(mostFrames(packing, 1 << 20), 0);
    EXPECT_LT(mostFrames(packing, 6700), std::int64_t{1} << 31) << static_cast<int>(packing);
  }
}

TEST(Cache, NoFlippedBitIsEverHeard) {
  const Scratch scratch;
  const auto samples = crackle(5000);
  writeSound(scratch / "a.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, samples);
  fs::path copy;
  {
    ASSERT_TRUE(decode(scratch / "a.flac", scratch / "cache"));
    copy = fs::directory_iterator(scratch / "cache")->path();
  }
  const auto whole = bytesOf(copy);
  std::mt19937 dice(11);
  int unheard = 0;
  for (int round = 0; round < 200; ++round) {
    auto bad = whole;
    const auto at = round < 100 ? static_cast<std::size_t>(round) * 2 : dice() % bad.size();
    bad[at] = static_cast<char>(bad[at] ^ (1 << dice() % 8));
    put(copy, bad);
    const auto mapped = DecodedMedia::map(copy);
    if (!mapped) continue;  // told, as it should be; else it is one of the bytes that fill up the head's page
    ++unheard;
    ASSERT_EQ((*mapped)->length(), Frames{5000}) << at;
    for (std::size_t i = 0; i < samples.size(); ++i)
      ASSERT_EQ((*mapped)->channel(0)[i], samples[i]) << "bit flipped at " << at;
  }
  EXPECT_LT(unheard, 60);
  for (const std::size_t size : {std::size_t{0}, std::size_t{10}, whole.size() / 2, whole.size() - 1}) {
    put(copy, whole.substr(0, size));
    EXPECT_FALSE(DecodedMedia::map(copy)) << "cut to " << size;
  }
  put(copy, std::string(whole.size(), '\0'));
  EXPECT_FALSE(DecodedMedia::map(copy));
  // And it is made again instead.
  const auto again = decode(scratch / "a.flac", scratch / "cache");
  ASSERT_TRUE(again);
  for (std::size_t i = 0; i < samples.size(); ++i) ASSERT_EQ((*again)->channel(0)[i], samples[i]);
  EXPECT_TRUE(DecodedMedia::map(copy));
}

TEST(Cache, ACopyThatIsShortenedWhileItPlaysReadsAsSilenceAndSaysSo) {
  const Scratch scratch;
  writeSound(scratch / "a.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, crackle(400'000));
  const auto media = decode(scratch / "a.flac", scratch / "cache");
  ASSERT_TRUE(media);
  EXPECT_FALSE((*media)->broken());
  fs::resize_file(fs::directory_iterator(scratch / "cache")->path(), 4096);
  double sum = 0;
  for (const float s : (*media)->channel(0).copy()) sum += std::abs(s);
  EXPECT_TRUE(std::isfinite(sum));
  EXPECT_TRUE((*media)->broken());
  EXPECT_EQ((*media)->channel(0)[300'000], 0.0F);
}

TEST(Cache, TwoRecordingsWithSilentEndsAndOneLengthAreTwo) {
  const Scratch scratch;
  std::vector<float> a(900'000, 0.0F), b(900'000, 0.0F);
  a[450'000] = 0.5F, b[450'001] = 0.5F;
  writeSound(scratch / "a.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, a);
  writeSound(scratch / "b.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, b);
  const auto first = decode(scratch / "a.wav", scratch / "cache");
  const auto second = decode(scratch / "b.wav", scratch / "cache");
  ASSERT_TRUE(first && second);
  EXPECT_EQ((*first)->channel(0)[450'000], 0.5F);
  EXPECT_EQ((*second)->channel(0)[450'000], 0.0F);
  EXPECT_EQ((*second)->channel(0)[450'001], 0.5F);
}

TEST(Cache, OneContentAtTwoRatesIsTwoCopies) {
  const Scratch scratch;
  writeSound(scratch / "a.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, crackle(4800));
  EXPECT_EQ((*decode(scratch / "a.wav", scratch / "cache"))->length(), Frames{4800});
  EXPECT_EQ((*decode(scratch / "a.wav", scratch / "cache", Damaged::refuse, 96'000))->length(), Frames{9600});
  EXPECT_EQ((*decode(scratch / "a.wav", scratch / "cache"))->length(), Frames{4800});
}

TEST(Cache, IsTrimmedByAgeAndSizeAndNothingElseIsTouched) {
  const Scratch scratch;
  for (int i = 0; i < 4; ++i)
    writeSound(scratch / ("s" + std::to_string(i) + ".wav"), {}, crackle(4000, static_cast<unsigned>(i)));
  std::vector<fs::path> copies;
  for (int i = 0; i < 4; ++i) {
    ASSERT_TRUE(decode(scratch / ("s" + std::to_string(i) + ".wav"), scratch / "cache"));
    for (const auto& e : fs::directory_iterator(scratch / "cache"))
      if (std::find(copies.begin(), copies.end(), e.path()) == copies.end()) copies.push_back(e.path());
  }
  ASSERT_EQ(copies.size(), 4u);
  const auto now = fs::file_time_type::clock::now();
  for (int i = 0; i < 4; ++i)
    fs::last_write_time(copies[static_cast<std::size_t>(i)], now - std::chrono::hours(24 * (40 - 10 * i)));
  put(scratch.path() / "cache" / "notes.txt", "mine");
  trimCache(scratch / "cache", {std::uint64_t{1} << 30, 35});
  EXPECT_FALSE(fs::exists(copies[0])) << "unused for 40 days";
  EXPECT_TRUE(fs::exists(copies[1]));
  const auto one = fs::file_size(copies[3]);
  trimCache(scratch / "cache", {one * 2 + 10, 90});
  EXPECT_FALSE(fs::exists(copies[1])) << "the longest unused goes first";
  EXPECT_TRUE(fs::exists(copies[2]) && fs::exists(copies[3]));
  EXPECT_EQ(bytesOf(scratch.path() / "cache" / "notes.txt"), "mine");
}

}  // namespace
}  // namespace ochron

// Uncompressed recordings are read where they lie: the same to the bit as decoded, whatever plays of them.
#include <sndfile.h>

#include <array>
#include <cmath>
#include <cstring>
#include <limits>

#include "edits/clip_edits.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "support/recordings.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using test::bytesOf;
using test::crackle;
using test::decode;
using test::put;
using test::Scratch;
using test::writeSound;

/// All of a file as the reader gives it.
std::vector<float> plainlyRead(const fs::path& file) {
  auto reader = AudioFileReader::open(file);
  if (!reader) return {};
  std::vector<float> all(static_cast<std::size_t>(reader->info().length.value * reader->info().channels));
  return reader->read(all) ? all : std::vector<float>{};
}

void expectEqual(const DecodedMedia& media, const std::vector<float>& interleaved) {
  const auto wide = static_cast<std::size_t>(media.channels());
  ASSERT_EQ(static_cast<std::size_t>(media.length().value) * wide, interleaved.size());
  for (std::size_t c = 0; c < wide; ++c) {
    const auto got = media.channel(static_cast<int>(c)).copy();
    for (std::size_t i = 0; i < got.size(); ++i) {
      ASSERT_EQ(got[i], interleaved[i * wide + c]) << "channel " << c << " frame " << i;
      ASSERT_EQ(media.channel(static_cast<int>(c))[i], got[i]);
    }
  }
}

std::string little(std::uint64_t value, int bytes) {
  std::string out;
  for (int i = 0; i < bytes; ++i) out += static_cast<char>(value >> (8 * i) & 0xff);
  return out;
}

struct Shape {
  int format;  ///< as the library names it
  int channels;
};
std::ostream& operator<<(std::ostream& out, const Shape& s) {
  return out << "format " << s.format << ", " << s.channels << " channels";
}
class LyingSound : public ::testing::TestWithParam<Shape> {};

TEST_P(LyingSound, IsReadAsTheLibraryReadsItAndNeverCopied) {
  const Scratch scratch;
  const auto [format, channels] = GetParam();
  SF_INFO info{0, 48'000, channels, format, 0, 0};
  const auto file = scratch / "a.wav";
  SNDFILE* out = sf_open(file.c_str(), SFM_WRITE, &info);
  ASSERT_TRUE(out) << sf_strerror(nullptr);
  // Every bit of the sample says something, full scale both ways among them.
  std::vector<int> samples(static_cast<std::size_t>(9'973 * channels));
  std::mt19937 dice(static_cast<unsigned>(format + channels));
  for (auto& s : samples) s = static_cast<int>(dice());
  samples[0] = std::numeric_limits<int>::min();
  samples[1] = std::numeric_limits<int>::max();
  ASSERT_EQ(sf_write_int(out, samples.data(), std::ssize(samples)), std::ssize(samples));
  sf_close(out);
  const auto media = decode(file, scratch / "cache");
  ASSERT_TRUE(media) << media.error().message;
  EXPECT_TRUE((*media)->inPlace());
  expectEqual(**media, plainlyRead(file));
  std::uintmax_t kept = 0;
  for (const auto& e : fs::directory_iterator(scratch / "cache")) kept += e.file_size();
  EXPECT_LT(kept, 9'973u * static_cast<unsigned>(channels) / 4 + 5'000) << "peaks only";
  const auto again = decode(file, scratch / "cache");
  ASSERT_TRUE(again);
  for (int c = 0; c < channels; ++c) {
    const auto samplesOf = DecodedMedia::fromSamples(48'000, {(*media)->channel(c).copy()});
    for (std::size_t level = 0; level < kPeakLevels; ++level) {
      const auto want = samplesOf->peaks(0).levels[level];
      const auto got = (*again)->peaks(c).levels[level];
      ASSERT_EQ(got.size(), want.size());
      EXPECT_EQ(std::memcmp(got.data(), want.data(), got.size_bytes()), 0) << "level " << level;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(
    Shapes, LyingSound,
    ::testing::Values(Shape{SF_FORMAT_WAV | SF_FORMAT_PCM_16, 1}, Shape{SF_FORMAT_WAV | SF_FORMAT_PCM_16, 2},
                      Shape{SF_FORMAT_WAV | SF_FORMAT_PCM_24, 1}, Shape{SF_FORMAT_WAV | SF_FORMAT_PCM_24, 2},
                      Shape{SF_FORMAT_WAV | SF_FORMAT_PCM_24, 5}, Shape{SF_FORMAT_WAV | SF_FORMAT_PCM_32, 3},
                      Shape{SF_FORMAT_WAV | SF_FORMAT_FLOAT, 1}, Shape{SF_FORMAT_WAV | SF_FORMAT_FLOAT, 2},
                      Shape{SF_FORMAT_WAVEX | SF_FORMAT_PCM_24, 2}, Shape{SF_FORMAT_RF64 | SF_FORMAT_PCM_24, 2},
                      Shape{SF_FORMAT_W64 | SF_FORMAT_PCM_16, 2}));

TEST(LyingSound, BehindOddAndUnknownChunksIsFound) {
  const Scratch scratch;
  const auto samples = crackle(2'000);
  writeSound(scratch / "plain.wav", {FileFormat::wav, SampleFormat::pcm24, 48'000, 1}, samples);
  const auto whole = bytesOf(scratch / "plain.wav");
  const auto data = whole.find("data");
  ASSERT_NE(data, std::string::npos);
  for (const std::size_t size : {std::size_t{0}, std::size_t{1}, std::size_t{2}, std::size_t{77}, std::size_t{4096}}) {
    const auto chunk = "junk" + little(size, 4) + std::string(size + size % 2, 'd');
    auto bytes = whole.substr(0, data) + chunk + whole.substr(data);
    bytes.replace(4, 4, little(bytes.size() - 8, 4));
    put(scratch / "odd.wav", bytes);
    const auto media = decode(scratch / "odd.wav", scratch / "cache");
    ASSERT_TRUE(media) << size << ": " << media.error().message;
    EXPECT_TRUE((*media)->inPlace());
    expectEqual(**media, samples);
  }
}

TEST(LyingSound, InWiderContainersOrWithTheHighestByteFirstIsReadAsTheLibraryReadsIt) {
  const Scratch scratch;
  // 24 bits in containers of 4 bytes.
  const int frames = 500;
  std::string sound;
  for (int i = 0; i < frames; ++i) sound += little(static_cast<std::uint64_t>(i) * 977 << 8, 4);
  const auto head = std::string("fmt ") + little(16, 4) + little(1, 2) + little(1, 2) + little(48'000, 4) +
                    little(48'000 * 4, 4) + little(4, 2) + little(24, 2);
  put(scratch / "wide.wav", "RIFF" + little(4 + head.size() + 8 + sound.size(), 4) + "WAVE" + head + "data" +
                                little(sound.size(), 4) + sound);
  const auto want = plainlyRead(scratch / "wide.wav");
  const auto wide = decode(scratch / "wide.wav", scratch / "cache");
  ASSERT_EQ(wide.has_value(), !want.empty());
  ASSERT_FALSE(want.empty());
  expectEqual(**wide, want);
  writeSound(scratch / "b.aiff", {FileFormat::aiff, SampleFormat::pcm24, 48'000, 2}, crackle(4'000));
  const auto aiff = decode(scratch / "b.aiff", scratch / "cache");
  ASSERT_TRUE(aiff);
  EXPECT_FALSE((*aiff)->inPlace());
  expectEqual(**aiff, crackle(4'000));
}

TEST(LyingSound, AtAnotherRateOrPackedIsCopied) {
  const Scratch scratch;
  writeSound(scratch / "a.wav", {FileFormat::wav, SampleFormat::pcm24, 44'100, 1}, crackle(4'410));
  writeSound(scratch / "a.flac", {FileFormat::flac, SampleFormat::pcm24, 48'000, 1}, crackle(4'800));
  for (const auto* name : {"a.wav", "a.flac"}) {
    const auto media = decode(scratch / name, scratch / "cache");
    ASSERT_TRUE(media);
    EXPECT_FALSE((*media)->inPlace()) << name;
    EXPECT_EQ((*media)->length(), Frames{4'800}) << name;
  }
}

TEST(LyingSound, ThatIsNoNumberIsRefusedAsWhenDecoded) {
  const Scratch scratch;
  writeSound(scratch / "n.wav", {FileFormat::wav, SampleFormat::float32, 48'000, 1}, crackle(60'000));
  auto bytes = bytesOf(scratch / "n.wav");
  const float bad = std::numeric_limits<float>::quiet_NaN();
  std::memcpy(bytes.data() + bytes.find("data") + 8 + 50'001 * sizeof bad, &bad, sizeof bad);
  put(scratch / "n.wav", bytes);
  const auto refused = decode(scratch / "n.wav", scratch / "cache");
  ASSERT_FALSE(refused);
  EXPECT_EQ(refused.error().kind, ErrorKind::damaged);
  EXPECT_NE(refused.error().message.find("not numbers after 1.0"), std::string::npos) << refused.error().message;
  const auto part = decode(scratch / "n.wav", scratch / "cache", Damaged::accept);
  ASSERT_TRUE(part);
  EXPECT_TRUE((*part)->damage());
}

TEST(LyingSound, WrittenToWhileItPlaysSaysSoAndShortenedReadsAsSilence) {
  const Scratch scratch;
  const auto samples = crackle(400'000);
  const auto file = scratch / "a.wav";
  writeSound(file, {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, samples);
  const auto media = decode(file, scratch / "cache");
  ASSERT_TRUE(media && (*media)->inPlace());
  EXPECT_FALSE((*media)->broken());
  // Another file in its place is noticed; what plays stays as it was.
  put(scratch / "new.wav", std::string(1'000, 'x'));
  fs::rename(file, scratch / "old.wav");
  fs::rename(scratch / "new.wav", file);
  EXPECT_TRUE((*media)->broken());
  EXPECT_EQ((*media)->channel(0)[399'999], samples[399'999]);
  fs::rename(scratch / "old.wav", file);
  fs::resize_file(file, 4'096);
  EXPECT_TRUE((*media)->broken());
  EXPECT_EQ((*media)->channel(0)[300'000], 0.0F);
}

TEST(LyingSound, WrittenToAtItsLengthSaysSo) {
  const Scratch scratch;
  const auto file = scratch / "a.wav";
  writeSound(file, {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, crackle(5'000));
  fs::last_write_time(file, fs::file_time_type::clock::now() - std::chrono::hours(1));
  const auto media = decode(file, scratch / "cache");
  ASSERT_TRUE(media && (*media)->inPlace());
  EXPECT_FALSE((*media)->broken());
  const MediaPool pool{{MediaId{1}, *media}};
  EXPECT_TRUE(stillAsRead(pool));
  std::fstream(file, std::ios::binary | std::ios::in | std::ios::out).seekp(1'000).write("zz", 2);
  EXPECT_TRUE((*media)->broken());
  EXPECT_FALSE(stillAsRead(pool));
}

TEST(LyingSound, HasItsPeaksMadeAgainWhenTheyAreDamaged) {
  const Scratch scratch;
  writeSound(scratch / "a.wav", {FileFormat::wav, SampleFormat::pcm24, 48'000, 2}, crackle(20'000));
  const auto first = decode(scratch / "a.wav", scratch / "cache");
  ASSERT_TRUE(first);
  const std::vector<Peak> want((*first)->peaks(1).levels[0].begin(), (*first)->peaks(1).levels[0].end());
  const auto peaks = fs::directory_iterator(scratch / "cache")->path();
  EXPECT_FALSE(DecodedMedia::map(peaks)) << "no copy of the sound";
  const auto whole = bytesOf(peaks);
  std::mt19937 dice(5);
  for (int round = 0; round < 60; ++round) {
    auto bad = whole;
    if (round < 40)
      bad[dice() % bad.size()] ^= static_cast<char>(1 << dice() % 8);
    else
      bad.resize(dice() % bad.size());
    put(peaks, bad);
    const auto again = decode(scratch / "a.wav", scratch / "cache");
    ASSERT_TRUE(again) << again.error().message;
    const auto got = (*again)->peaks(1).levels[0];
    ASSERT_EQ(got.size(), want.size());
    ASSERT_EQ(std::memcmp(got.data(), want.data(), got.size_bytes()), 0) << round;
  }
}

TEST(LyingSound, PlaysCutTurnedRoundAndCrossfadedAsFromMemory) {
  test::Style style;
  style.bars = 4;
  auto made = test::songOf(test::perform(style));
  const Scratch scratch;
  MediaPool lying;
  int name = 0;
  for (auto& [id, media] : made.pool) {
    const auto file = scratch / (std::to_string(name++) + ".wav");
    writeSound(file, {FileFormat::wav, SampleFormat::pcm24, media->rate(), 1}, media->channel(0).copy());
    lying[id] = *decode(file, scratch / "cache");
    ASSERT_TRUE(lying[id]->inPlace());
    media = DecodedMedia::fromSamples(media->rate(), {lying[id]->channel(0).copy()});
  }
  std::mt19937 dice(9);
  std::vector<Frames> cuts;
  cuts.reserve(12);
  for (int i = 0; i < 12; ++i) cuts.emplace_back(dice() % static_cast<unsigned>(made.song.end().value));
  made.song = *splitAt(made.song, made.set, cuts, Frames{});
  auto clips = *made.song.find(made.set)->clips;
  for (std::size_t i = 0; i < clips.size(); ++i) {
    clips[i].reversed = i % 3 == 1;
    if (i > 0) clips[i].seam = {Frames{700}, Frames{300}, CrossfadeLaw::matched, FadeShape::line, 0};
    if (i % 4 == 2) clips[i].gainDb = -3;
  }
  clips.front().fadeIn = {Frames{9'000}, FadeShape::line, 0, FadeKind::tape};
  made.song.sets.front().clips = clips;
  const auto whole = [&](const MediaPool& pool) {
    const auto plan = compilePlan(made.song, pool);
    const auto frames = static_cast<std::size_t>(made.song.end().value);
    std::vector<float> left(frames), right(frames), scratchRoom(frames);
    // In blocks of other lengths than those in which sound is read.
    for (std::size_t at = 0; at < frames;) {
      const auto n = std::min<std::size_t>(frames - at, 1 + (at * 7) % 1'700);
      addMix(plan, Frames{static_cast<std::int64_t>(at)}, std::span(left).subspan(at, n),
             std::span(right).subspan(at, n), scratchRoom, {}, {});
      at += n;
    }
    left.insert(left.end(), right.begin(), right.end());
    return left;
  };
  const auto fromMemory = whole(made.pool);
  EXPECT_GT(*std::max_element(fromMemory.begin(), fromMemory.end()), 0.1F);
  EXPECT_EQ(whole(lying), fromMemory);
}

}  // namespace
}  // namespace ochron

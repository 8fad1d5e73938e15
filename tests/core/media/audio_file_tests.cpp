#include "media/audio_file.h"

#include <gtest/gtest.h>
#include <sndfile.h>

#include <cmath>
#include <fstream>
#include <random>

#include "media/decoded.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::Scratch;

std::vector<float> noise(std::size_t n, int bits, unsigned seed = 3) {
  std::mt19937 dice(seed);
  const double scale = std::ldexp(1.0, bits - 1);
  std::vector<float> out(n);
  for (auto& s : out)
    s = static_cast<float>(std::floor((static_cast<double>(dice()) / 4294967296.0 * 1.6 - 0.8) * scale) / scale);
  return out;
}

void write(const std::filesystem::path& file, const WriteFormat& format, const std::vector<float>& samples,
           std::optional<std::int64_t> stamp = {}) {
  auto w = AudioFileWriter::create(file, format, {stamp, {}});
  ASSERT_TRUE(w.has_value()) << w.error().message;
  ASSERT_TRUE(w->write(samples).has_value());
  ASSERT_TRUE(w->finish().has_value());
}

Result<std::shared_ptr<const DecodedMedia>> decoded(const Scratch& scratch, const std::string& name,
                                                    int rate = 48'000) {
  Progress progress;
  const auto content = contentId(scratch / name, progress);
  if (!content) return tl::unexpected(content.error());
  return decodeMedia(scratch / name, *content, {scratch / "cache", rate}, progress);
}

struct Lossless {
  const char* name;
  FileFormat format;
  SampleFormat samples;
  int bits;
};
std::ostream& operator<<(std::ostream& out, const Lossless& l) { return out << l.name; }
class LosslessFormat : public ::testing::TestWithParam<Lossless> {};

TEST_P(LosslessFormat, GivesBackTheVerySamples) {
  const Scratch scratch;
  const auto& p = GetParam();
  const auto samples = noise(30'000, p.bits);
  const auto file = scratch / p.name;
  write(file, {p.format, p.samples, 44'100, 2}, samples);
  auto r = AudioFileReader::open(file);
  ASSERT_TRUE(r.has_value()) << r.error().message;
  EXPECT_EQ(r->info().rate, 44'100);
  EXPECT_EQ(r->info().channels, 2);
  EXPECT_EQ(r->info().length, Frames{15'000});
  EXPECT_EQ(r->info().samples, p.samples);
  std::vector<float> back(samples.size());
  EXPECT_EQ(*r->read(back), 15'000);
  EXPECT_EQ(back, samples);
}
INSTANTIATE_TEST_SUITE_P(Formats, LosslessFormat,
                         ::testing::Values(Lossless{"a16.wav", FileFormat::wav, SampleFormat::pcm16, 16},
                                           Lossless{"a24.wav", FileFormat::wav, SampleFormat::pcm24, 24},
                                           Lossless{"a32.wav", FileFormat::wav, SampleFormat::pcm32, 24},
                                           Lossless{"af.wav", FileFormat::wav, SampleFormat::float32, 24},
                                           Lossless{"a24.flac", FileFormat::flac, SampleFormat::pcm24, 24},
                                           Lossless{"a16.flac", FileFormat::flac, SampleFormat::pcm16, 16},
                                           Lossless{"a24.aiff", FileFormat::aiff, SampleFormat::pcm24, 24}));

TEST(AudioFile, TimeStampOfABroadcastWaveIsRead) {
  const Scratch scratch;
  write(scratch / "b.wav", {FileFormat::wav, SampleFormat::pcm24, 48'000, 1}, noise(1000, 24), 172'800'000'000);
  EXPECT_EQ(AudioFileReader::open(scratch / "b.wav")->info().timeReference, 172'800'000'000);
}

TEST(AudioFile, TruncatedDataIsRefusedWithASentence) {
  const Scratch scratch;
  write(scratch / "t.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, noise(5000, 16));
  std::filesystem::resize_file(scratch / "t.wav", 4144);
  const auto r = AudioFileReader::open(scratch / "t.wav");
  ASSERT_FALSE(r.has_value());
  EXPECT_NE(r.error().message.find(
                "t.wav: it is cut short: the header promises 5000 frames (0.104 s), the file holds 2050 (0.043 s)"),
            std::string::npos)
      << r.error().message;
}

TEST(AudioFile, NonsenseIsRefused) {
  const Scratch scratch;
  std::ofstream(scratch / "text.wav") << "this is no sound";
  std::ofstream(scratch / "empty.flac") << "";
  EXPECT_FALSE(AudioFileReader::open(scratch / "text.wav"));
  EXPECT_FALSE(AudioFileReader::open(scratch / "empty.flac"));
  EXPECT_FALSE(AudioFileReader::open(scratch / "missing.wav"));
  EXPECT_FALSE(AudioFileReader::open(scratch.path()));
}

TEST(AudioFile, SamplesThatAreNotNumbersAreRefused) {
  const Scratch scratch;
  auto samples = noise(5000, 24);
  samples[3000] = std::nanf("");
  write(scratch / "n.wav", {FileFormat::wav, SampleFormat::float32, 48'000, 1}, samples);
  const auto m = decoded(scratch, "n.wav");
  ASSERT_FALSE(m.has_value());
  EXPECT_NE(m.error().message.find("not numbers"), std::string::npos);
}

TEST(AudioFile, SamplesThatAreNotNumbersAreSilentWhenTheFileIsAcceptedAndTheRestIsUsed) {
  const Scratch scratch;
  auto samples = noise(48'000, 24);
  samples[3000] = std::nanf("");
  samples[3001] = std::numeric_limits<float>::infinity();
  write(scratch / "n.wav", {FileFormat::wav, SampleFormat::float32, 48'000, 1}, samples);
  Progress progress;
  const auto m = decodeMedia(scratch / "n.wav", "n", {scratch / "cache", 48'000, Damaged::accept}, progress);
  ASSERT_TRUE(m.has_value()) << m.error().message;
  const auto read = (*m)->channel(0).copy();
  ASSERT_EQ(read.size(), samples.size());
  for (std::size_t i = 0; i < read.size(); ++i) ASSERT_EQ(read[i], i == 3000 || i == 3001 ? 0.0F : samples[i]) << i;
  ASSERT_TRUE((*m)->damage());
  EXPECT_NE((*m)->damage()->what.find("2 samples from 0.062 to 0.063 s"), std::string::npos) << (*m)->damage()->what;
}

using OneCue = SF_CUES_VAR(1);
/// Cue points of a WAV file with their names, read by the library alone.
std::vector<std::pair<std::int64_t, std::string>> cuesIn(const std::filesystem::path& file) {
  SF_INFO info{};
  SNDFILE* handle = sf_open(file.c_str(), SFM_READ, &info);
  if (!handle) return {};
  std::uint32_t count = 0;
  sf_command(handle, SFC_GET_CUE_COUNT, &count, sizeof count);
  std::vector<char> bytes(sizeof(OneCue) + count * sizeof(SF_CUE_POINT));
  std::vector<std::pair<std::int64_t, std::string>> out;
  if (sf_command(handle, SFC_GET_CUE, bytes.data(), static_cast<int>(bytes.size())) == SF_TRUE) {
    const auto* cues = reinterpret_cast<const OneCue*>(bytes.data());
    for (std::uint32_t i = 0; i < count; ++i)
      out.emplace_back(cues->cue_points[i].sample_offset, cues->cue_points[i].name);
  }
  sf_close(handle);
  return out;
}

TEST(AudioFile, EveryMarkerIsACuePointWithItsNameHoweverManyAndHoweverLong) {
  const Scratch scratch;
  for (const std::size_t count : {std::size_t{1}, std::size_t{2}, std::size_t{101}, std::size_t{700}}) {
    WriteNotes notes;
    for (std::size_t i = 0; i < count; ++i)
      notes.markers.push_back({Frames{static_cast<std::int64_t>(i * 7)}, std::string(i % 9, 'm') + std::to_string(i)});
    auto w = AudioFileWriter::create(scratch / "cues.wav", {FileFormat::wav, SampleFormat::pcm24, 48'000, 1}, notes);
    ASSERT_TRUE(w && w->write(noise(5000, 24)));
    const auto done = w->finish();
    ASSERT_TRUE(done) << count << ": " << done.error().message;
    const auto cues = cuesIn(scratch / "cues.wav");
    ASSERT_EQ(cues.size(), count);
    for (std::size_t i = 0; i < count; ++i) {
      EXPECT_EQ(cues[i].first, notes.markers[i].at.value);
      EXPECT_EQ(cues[i].second, notes.markers[i].name);
    }
  }
}

TEST(AudioFile, UnfinishedWritingLeavesNothing) {
  const Scratch scratch;
  {
    auto w = AudioFileWriter::create(scratch / "u.wav", {});
    ASSERT_TRUE(w->write(noise(100, 24)).has_value());
  }
  EXPECT_TRUE(std::filesystem::is_empty(scratch.path()));
}

TEST(DecodedMedia, HoldsTheFilesSamplesAndTheirPeaks) {
  const Scratch scratch;
  const auto samples = noise(2 * 10'000, 24);
  write(scratch / "d.wav", {FileFormat::wav, SampleFormat::pcm24, 48'000, 2}, samples);
  const auto m = *decoded(scratch, "d.wav");
  ASSERT_EQ(m->length(), Frames{10'000});
  float low = 1, high = -1;
  for (std::size_t i = 0; i < 10'000; ++i) ASSERT_EQ(m->channel(1)[i], samples[2 * i + 1]);
  for (std::size_t i = 64; i < 128; ++i) low = std::min(low, m->channel(1)[i]), high = std::max(high, m->channel(1)[i]);
  EXPECT_NEAR(m->peaks(1).levels[0][1].low / 32767.0, low, 2e-5);
  EXPECT_NEAR(m->peaks(1).levels[0][1].high / 32767.0, high, 2e-5);
  EXPECT_EQ(m->peaks(1).levels.size(), static_cast<std::size_t>(kPeakLevels));
  // The second time the cache serves.
  EXPECT_EQ((*decoded(scratch, "d.wav"))->channel(0)[77], m->channel(0)[77]);
}

struct Conversion {
  int from, to;
};
std::ostream& operator<<(std::ostream& out, const Conversion& c) { return out << c.from << " to " << c.to << " Hz"; }
class SampleRateConversion : public ::testing::TestWithParam<Conversion> {};

TEST_P(SampleRateConversion, KeepsASineAbove110Db) {
  const Scratch scratch;
  const auto [from, to] = GetParam();
  std::vector<float> sine(static_cast<std::size_t>(from * 2));
  for (std::size_t i = 0; i < sine.size(); ++i)
    sine[i] = static_cast<float>(0.5 * std::sin(2 * M_PI * 997 * static_cast<double>(i) / from));
  write(scratch / "s.wav", {FileFormat::wav, SampleFormat::float32, from, 1}, sine);
  const auto m = *decoded(scratch, "s.wav", to);
  ASSERT_EQ(m->length(), Frames{to * 2});
  double error = 0, power = 0;
  for (int i = to / 2; i < to * 3 / 2; ++i) {
    const double truth = 0.5 * std::sin(2 * M_PI * 997 * static_cast<double>(i) / to);
    error += std::pow(m->channel(0)[static_cast<std::size_t>(i)] - truth, 2), power += truth * truth;
  }
  EXPECT_GT(10 * std::log10(power / error), 110);
}
INSTANTIATE_TEST_SUITE_P(Rates, SampleRateConversion,
                         ::testing::Values(Conversion{44'100, 48'000}, Conversion{96'000, 48'000},
                                           Conversion{48'000, 44'100}));

TEST(DecodedMedia, CancelLeavesNothingBehind) {
  const Scratch scratch;
  write(scratch / "c.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, noise(100'000, 16));
  Progress progress;
  progress.cancel();
  const auto m = decodeMedia(scratch / "c.wav", "c", {scratch / "cache"}, progress);
  ASSERT_FALSE(m.has_value());
  EXPECT_EQ(m.error().kind, ErrorKind::cancelled);
  EXPECT_TRUE(std::filesystem::is_empty(scratch / "cache"));
}

TEST(DecodedMedia, DamagedCacheFilesAreRefused) {
  const Scratch scratch;
  std::ofstream(scratch / "x.decoded") << std::string(200, 'x');
  EXPECT_FALSE(DecodedMedia::map(scratch / "x.decoded"));
}

TEST(Peaks, BlockSizeChangesNothing) {
  const auto samples = noise(10'007, 24);
  PeakBuilder whole, parts;
  whole.add(samples);
  for (std::size_t i = 0; i < samples.size();) {
    const auto n = std::min<std::size_t>(1 + i % 97, samples.size() - i);
    parts.add(std::span(samples).subspan(i, n));
    i += n;
  }
  const auto a = whole.finish();
  const auto b = parts.finish();
  for (int level = 0; level < kPeakLevels; ++level) {
    const auto k = static_cast<std::size_t>(level);
    ASSERT_EQ(a[k].size(), peakCount(10'007, level));
    for (std::size_t i = 0; i < a[k].size(); ++i) {
      ASSERT_EQ(a[k][i].low, b[k][i].low);
      ASSERT_EQ(a[k][i].high, b[k][i].high);
      ASSERT_NEAR(a[k][i].rms, b[k][i].rms, 1);
    }
  }
}

TEST(LoopTempo, IsWrittenAndReadBack) {
  const test::Scratch scratch;
  const auto file = scratch / "loop.wav";
  auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1}, {{}, {}, 97.25});
  ASSERT_TRUE(w && w->write(noise(4800, 24)) && w->finish());
  const auto r = AudioFileReader::open(file);
  ASSERT_TRUE(r);
  ASSERT_TRUE(r->info().bpm);
  EXPECT_NEAR(*r->info().bpm, 97.25, 1e-6);
  EXPECT_EQ(r->info().length, Frames{4800});
}

TEST(LoopTempo, IsATagWhereThereIsNoChunkForIt) {
  const test::Scratch scratch;
  for (const auto format : {FileFormat::flac, FileFormat::ogg, FileFormat::aiff}) {
    const auto file = scratch / ("loop" + std::string(extensionOf(format)));
    auto w = AudioFileWriter::create(file, {format, SampleFormat::pcm16, 48'000, 2}, {{}, {}, 123.5});
    ASSERT_TRUE(w && w->write(noise(96'000, 16)) && w->finish()) << extensionOf(format);
    const auto r = AudioFileReader::open(file);
    ASSERT_TRUE(r) << extensionOf(format);
    ASSERT_TRUE(r->info().bpm) << extensionOf(format);
    EXPECT_NEAR(*r->info().bpm, 123.5, format == FileFormat::aiff ? 0.5 : 1e-6) << "ID3 holds whole numbers";
    EXPECT_EQ(r->info().length, Frames{48'000});
  }
}

TEST(FileKeys, AreTagsAndInLoopsTheirTonic) {
  const test::Scratch scratch;
  const auto bytesOf = [](const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    return std::string{std::istreambuf_iterator<char>(in), {}};
  };
  for (const auto format : {FileFormat::flac, FileFormat::ogg, FileFormat::mp3, FileFormat::aiff}) {
    const auto file = scratch / ("key" + std::string(extensionOf(format)));
    auto w = AudioFileWriter::create(file, {format, SampleFormat::pcm16, 48'000, 2}, {{}, {}, {}, FileKey{6, true}});
    ASSERT_TRUE(w && w->write(noise(96'000, 16)) && w->finish()) << extensionOf(format);
    const auto bytes = bytesOf(file);
    const bool id3 = format == FileFormat::mp3 || format == FileFormat::aiff;
    EXPECT_NE(bytes.find(id3 ? "TKEY" : "INITIALKEY=F#m"), std::string::npos) << extensionOf(format);
    EXPECT_NE(bytes.find("F#m"), std::string::npos) << extensionOf(format);
    EXPECT_TRUE(AudioFileReader::open(file));
  }
  const auto file = scratch / "loop.wav";
  auto w =
      AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1}, {{}, {}, 97.25, FileKey{6}});
  ASSERT_TRUE(w && w->write(noise(4800, 24)) && w->finish());
  const auto bytes = bytesOf(file);
  const auto acid = bytes.find("acid");
  ASSERT_NE(acid, std::string::npos);
  EXPECT_EQ(bytes[acid + 8] & 2, 2) << "its tonic is told";
  EXPECT_EQ(bytes[acid + 12], 66);
}

TEST(LoopTempo, AFilesSoundIsTheSameWithATag) {
  const test::Scratch scratch;
  const auto samples = noise(48'000, 24);
  for (const auto format : {FileFormat::flac, FileFormat::aiff}) {
    std::vector<std::vector<float>> read;
    for (const std::optional<double> bpm : {std::optional<double>{}, std::optional<double>{99.0}}) {
      const auto file = scratch / ("tagged" + std::string(extensionOf(format)));
      auto w = AudioFileWriter::create(file, {format, SampleFormat::pcm24, 48'000, 1}, {{}, {}, bpm});
      ASSERT_TRUE(w && w->write(samples) && w->finish());
      auto r = AudioFileReader::open(file);
      ASSERT_TRUE(r);
      read.emplace_back(samples.size());
      ASSERT_TRUE(r->read(read.back()));
    }
    EXPECT_EQ(read[0], read[1]);
  }
}

TEST(LoopTempo, IsNoneWhereTheFileTellsNoneOrNonsense) {
  const test::Scratch scratch;
  for (const double bpm : {0.0, -4.0, 5000.0}) {
    const auto file = scratch / "odd.wav";
    auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, {{}, {}, bpm});
    ASSERT_TRUE(w && w->write(noise(100, 16)) && w->finish());
    EXPECT_FALSE(AudioFileReader::open(file)->info().bpm) << bpm;
  }
}

double rmsOf(const std::vector<float>& x) {
  double sum = 0;
  for (const float v : x) sum += static_cast<double>(v) * static_cast<double>(v);
  return std::sqrt(sum / static_cast<double>(x.size()));
}

std::vector<float> writtenAndRead(const std::filesystem::path& file, const WriteFormat& format,
                                  const std::vector<float>& samples) {
  auto w = AudioFileWriter::create(file, format);
  EXPECT_TRUE(w && w->write(samples) && w->finish()) << file;
  auto r = AudioFileReader::open(file);
  EXPECT_TRUE(r) << file;
  if (!r) return {};
  std::vector<float> out(static_cast<std::size_t>(r->info().length.value * r->info().channels));
  EXPECT_TRUE(r->read(out));
  return out;
}

TEST(Dither, LeavesWhatLiesOnAStepAsItIs) {
  const test::Scratch scratch;
  const auto exact = noise(4800, 16);
  const WriteFormat dithered{FileFormat::wav, SampleFormat::pcm16, 48'000, 1, {}, true};
  EXPECT_EQ(writtenAndRead(scratch / "exact.wav", dithered, exact), exact);
}

TEST(Dither, KeepsAToneBelowOneStepAndPutsNoDistortionUnderIt) {
  const test::Scratch scratch;
  constexpr std::size_t kFrames = 480'000;
  const double step = std::ldexp(1.0, -15);
  std::vector<float> soft(kFrames);
  for (std::size_t i = 0; i < kFrames; ++i)
    soft[i] = static_cast<float>(0.4 * step * std::sin(2 * M_PI * 1000 * static_cast<double>(i) / 48'000));
  const auto levelAt = [&](const std::vector<float>& x, double hz) {
    double re = 0;
    double im = 0;
    for (std::size_t i = 0; i < kFrames; ++i) {
      const double w = 2 * M_PI * hz * static_cast<double>(i) / 48'000;
      re += static_cast<double>(x[i]) * std::cos(w);
      im += static_cast<double>(x[i]) * std::sin(w);
    }
    return 2 * std::hypot(re, im) / static_cast<double>(kFrames) / step;
  };
  const auto plain = writtenAndRead(scratch / "plain.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1}, soft);
  EXPECT_EQ(rmsOf(plain), 0) << "it is lost without";
  const auto kept =
      writtenAndRead(scratch / "kept.wav", {FileFormat::wav, SampleFormat::pcm16, 48'000, 1, {}, true}, soft);
  EXPECT_NEAR(levelAt(kept, 1000), 0.4, 0.02);
  EXPECT_LT(levelAt(kept, 3000), 0.01);
  // Rounding and triangular noise together: a quarter of a step squared.
  EXPECT_NEAR(rmsOf(kept) / step, std::sqrt(0.25 + 0.08), 0.02);
}

TEST(PackedFiles, OpusAndMp3AreAsLongAsWhatWasWrittenAndSoundLikeIt) {
  const test::Scratch scratch;
  std::vector<float> x(2 * 96'000);
  for (std::size_t i = 0; i < x.size() / 2; ++i)
    x[2 * i] = x[2 * i + 1] = static_cast<float>(0.4 * std::sin(2 * M_PI * 440 * static_cast<double>(i) / 48'000));
  for (const auto format : {FileFormat::opus, FileFormat::mp3}) {
    const auto file = scratch / ("tone" + std::string(extensionOf(format)));
    const auto read = writtenAndRead(file, {format, SampleFormat::pcm24, 48'000, 2}, x);
    ASSERT_EQ(read.size(), x.size()) << file;
    double off = 0;
    for (std::size_t i = 20'000; i < x.size() - 20'000; ++i)
      off += std::pow(static_cast<double>(read[i]) - static_cast<double>(x[i]), 2);
    EXPECT_LT(std::sqrt(off / static_cast<double>(x.size())), 0.01) << file;
    EXPECT_LT(std::filesystem::file_size(file), 200'000U);
    EXPECT_EQ(formatForName(file), format);
    EXPECT_EQ(AudioFileReader::open(file)->info().format, format);
  }
}

TEST(PackedFiles, MoreQualityIsALargerFile) {
  const test::Scratch scratch;
  const auto x = noise(96'000, 16);
  for (const auto format : {FileFormat::ogg, FileFormat::opus, FileFormat::mp3}) {
    std::uintmax_t last = 0;
    for (const double quality : {10.0, 50.0, 95.0}) {
      const auto file = scratch / ("q" + std::to_string(quality) + extensionOf(format));
      auto w = AudioFileWriter::create(file, {format, SampleFormat::pcm24, 48'000, 2, {}, false, quality});
      ASSERT_TRUE(w && w->write(x) && w->finish());
      EXPECT_GT(std::filesystem::file_size(file), last) << file;
      last = std::filesystem::file_size(file);
    }
  }
}

TEST(PackedFiles, ARateThatTheFormatCannotHaveIsRefusedAndTheNearestIsNamed) {
  const test::Scratch scratch;
  EXPECT_EQ(rateFor(FileFormat::opus, 44'100), 48'000);
  EXPECT_EQ(rateFor(FileFormat::mp3, 96'000), 48'000);
  EXPECT_EQ(rateFor(FileFormat::mp3, 44'100), 44'100);
  EXPECT_EQ(rateFor(FileFormat::wav, 192'000), 192'000);
  const auto w = AudioFileWriter::create(scratch / "x.opus", {FileFormat::opus, SampleFormat::pcm24, 44'100, 2});
  ASSERT_FALSE(w);
  EXPECT_NE(w.error().message.find("48000"), std::string::npos) << w.error().message;
  const auto many = AudioFileWriter::create(scratch / "x.flac", {FileFormat::flac, SampleFormat::pcm24, 48'000, 9});
  ASSERT_FALSE(many);
  EXPECT_NE(many.error().message.find("8 channels"), std::string::npos) << many.error().message;
}

TEST(Chapters, AreCommentsOrFramesThatASecondReaderSees) {
  const test::Scratch scratch;
  const std::vector<FileMarker> marks{{Frames{0}, "Verse"}, {Frames{72'000}, "Chorus \u00e9"}};
  for (const auto format : {FileFormat::flac, FileFormat::ogg, FileFormat::opus, FileFormat::mp3}) {
    const auto file = scratch / ("c" + std::string(extensionOf(format)));
    auto w = AudioFileWriter::create(file, {format, SampleFormat::pcm16, 48'000, 1}, {{}, marks, 120.0});
    ASSERT_TRUE(w && w->write(noise(96'000, 16)) && w->finish());
    EXPECT_TRUE(w->tempoTold());
    std::ifstream in(file, std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(in)), {});
    const bool frames = format == FileFormat::mp3;
    EXPECT_NE(bytes.find(frames ? "CHAP" : "CHAPTER002=00:00:01.500"), std::string::npos) << file;
    EXPECT_NE(bytes.find("Chorus \u00e9"), std::string::npos) << file;
    if (frames) EXPECT_NE(bytes.find("CTOC"), std::string::npos);
    EXPECT_EQ(AudioFileReader::open(file)->info().length, Frames{96'000});
    EXPECT_NEAR(AudioFileReader::open(file)->info().bpm.value_or(0), 120, 1e-6) << file;
  }
}

}  // namespace
}  // namespace ochron

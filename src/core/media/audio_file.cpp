#include "media/audio_file.h"

#include <sndfile.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cctype>
#include <cmath>
#include <cstring>
#include <limits>

#include "base/numbers.h"
#include "files/atomic_file.h"
#include "media/header_check.h"
#include "media/midi_notes.h"
#include "media/quiet_decoders.h"
#include "media/tags.h"

namespace ochron {
namespace {

constexpr int kMaxChannels = 64;

std::string shown(const std::filesystem::path& path) { return path.filename().string(); }
SNDFILE* handleOf(void* h) { return static_cast<SNDFILE*>(h); }

FileFormat formatOf(int sf) {
  switch (sf & SF_FORMAT_TYPEMASK) {
    case SF_FORMAT_WAV:
    case SF_FORMAT_WAVEX:
    case SF_FORMAT_W64:
    case SF_FORMAT_RF64: return FileFormat::wav;
    case SF_FORMAT_FLAC: return FileFormat::flac;
    case SF_FORMAT_AIFF: return FileFormat::aiff;
    case SF_FORMAT_OGG: return (sf & SF_FORMAT_SUBMASK) == SF_FORMAT_OPUS ? FileFormat::opus : FileFormat::ogg;
    case SF_FORMAT_MPEG: return FileFormat::mp3;
    default: return FileFormat::other;
  }
}

SampleFormat samplesOf(int sf) {
  switch (sf & SF_FORMAT_SUBMASK) {
    case SF_FORMAT_PCM_S8:
    case SF_FORMAT_PCM_U8:
    case SF_FORMAT_PCM_16: return SampleFormat::pcm16;
    case SF_FORMAT_PCM_24: return SampleFormat::pcm24;
    case SF_FORMAT_PCM_32: return SampleFormat::pcm32;
    case SF_FORMAT_FLOAT:
    case SF_FORMAT_DOUBLE: return SampleFormat::float32;
    default: return SampleFormat::compressed;
  }
}

int bytesPerSample(int sf) {
  const int type = sf & SF_FORMAT_TYPEMASK;
  if (type == SF_FORMAT_FLAC || type == SF_FORMAT_OGG || type == SF_FORMAT_MPEG) return 0;
  switch (sf & SF_FORMAT_SUBMASK) {
    case SF_FORMAT_PCM_S8:
    case SF_FORMAT_PCM_U8: return 1;
    case SF_FORMAT_PCM_16: return 2;
    case SF_FORMAT_PCM_24: return 3;
    case SF_FORMAT_PCM_32:
    case SF_FORMAT_FLOAT: return 4;
    case SF_FORMAT_DOUBLE: return 8;
    default: return 0;  // packed: a sample has no size of its own
  }
}

/// Where the sound lies when it can be read from the mapped file.
std::optional<SoundInPlace> inPlace(const std::filesystem::path& path, const SF_INFO& info) {
  if constexpr (std::endian::native != std::endian::little) return std::nullopt;
  SoundInPlace out;
  switch (info.format & SF_FORMAT_SUBMASK) {
    case SF_FORMAT_PCM_16: out.coding = SampleCoding::pcm16; break;
    case SF_FORMAT_PCM_24: out.coding = SampleCoding::pcm24; break;
    case SF_FORMAT_PCM_32: out.coding = SampleCoding::pcm32; break;
    case SF_FORMAT_FLOAT: out.coding = SampleCoding::float32; break;
    default: return std::nullopt;
  }
  const auto bytes = soundBytesOf(path);
  if (!bytes || !bytes->lowestFirst || bytes->held < bytes->promised) return std::nullopt;
  // What the library makes of the chunk is held against its size: samples may lie in wider containers.
  const auto frame = bytesOf(out.coding) * static_cast<std::uint64_t>(info.channels);
  if (bytes->promised / frame != static_cast<std::uint64_t>(info.frames)) return std::nullopt;
  out.at = bytes->at;
  return out;
}

Packing packingOf(int sf) {
  switch (sf & SF_FORMAT_TYPEMASK) {
    case SF_FORMAT_FLAC: return Packing::flac;
    case SF_FORMAT_OGG: return Packing::vorbisOrOpus;
    case SF_FORMAT_MPEG: return Packing::mpeg;
    default: return Packing::other;
  }
}

std::string inSeconds(std::int64_t frames, int rate) { return fixed(static_cast<double>(frames) / rate, 3) + " s"; }

/// What is wrong with the length that the header of a file claims; none when the file can hold it. `frames` becomes
/// what it can hold at most.
std::optional<std::string> wrongLength(const std::filesystem::path& path, const SF_INFO& info, std::int64_t& frames) {
  const int sampleBytes = bytesPerSample(info.format);
  if (const auto bytes = soundBytesOf(path); bytes && bytes->held < bytes->promised) {
    if (sampleBytes == 0) return "it is cut short: the header promises more sound than the file holds";
    const auto frameBytes = static_cast<std::uint64_t>(sampleBytes) * static_cast<std::uint64_t>(info.channels);
    const auto promised = static_cast<std::int64_t>(std::min<std::uint64_t>(bytes->promised / frameBytes, INT64_MAX));
    const auto held = static_cast<std::int64_t>(bytes->held / frameBytes);
    if (held < promised) {
      frames = std::min(frames, held);
      return "it is cut short: the header promises " + std::to_string(promised) + " frames (" +
             inSeconds(promised, info.samplerate) + "), the file holds " + std::to_string(held) + " (" +
             inSeconds(held, info.samplerate) + ")";
    }
  }
  std::error_code ec;
  const auto size = std::filesystem::file_size(path, ec);
  const auto most = sampleBytes > 0 ? static_cast<std::int64_t>(size / static_cast<std::uint64_t>(sampleBytes) /
                                                                static_cast<std::uint64_t>(info.channels))
                                    : mostFrames(packingOf(info.format), size);
  if (frames <= most) return std::nullopt;
  frames = most;
  return "its header claims more sound than a file of " + std::to_string(size) + " bytes can hold";
}

}  // namespace

void AudioFileReader::Closer::operator()(void* handle) const { sf_close(handleOf(handle)); }

Result<AudioFileReader> AudioFileReader::open(const std::filesystem::path& path, Damaged damaged) {
  if (auto ok = checkReadable(path); !ok) return tl::unexpected(ok.error());
  if (isMidiFile(path)) return openNotes(path);
  AudioFileReader r;
  r.damaged_ = damaged;
  SF_INFO info{};
  {
    const QuietDecoders quiet;
    r.handle_.reset(sf_open(path.c_str(), SFM_READ, &info));
  }
  if (!r.handle_)
    return fail(
        ErrorKind::badInput,
        shown(path) + ": this cannot be read as audio. Convert it to WAV, FLAC, AIFF, Ogg or MP3 and try again.",
        sf_strerror(nullptr));
  if (info.channels < 1 || info.channels > kMaxChannels || info.samplerate < 1'000 || info.samplerate > 768'000 ||
      info.frames < 0)
    return fail(ErrorKind::badInput, shown(path) + ": the header gives " + std::to_string(info.channels) +
                                         " channels at " + std::to_string(info.samplerate) +
                                         " Hz, which cannot be right. Export the file again.");
  std::int64_t frames = info.frames;
  const auto wrong = wrongLength(path, info, frames);
  if (frames == 0)
    return fail(ErrorKind::badInput, shown(path) + ": the file holds no sound at all. Choose another file.");
  if (wrong && damaged == Damaged::refuse)
    return fail(ErrorKind::damaged, shown(path) + ": " + *wrong + ". Copy it again from its source.");
  info.frames = frames;
  r.path_ = path;
  r.info_ = {info.samplerate,
             info.channels,
             Frames{info.frames},
             formatOf(info.format),
             samplesOf(info.format),
             {},
             {},
             {},
             wrong,
             wrong ? std::nullopt : inPlace(path, info)};
  SF_BROADCAST_INFO bext{};
  if (sf_command(handleOf(r.handle_.get()), SFC_GET_BROADCAST_INFO, &bext, sizeof bext) == SF_TRUE)
    r.info_.timeReference = static_cast<std::int64_t>((static_cast<std::uint64_t>(bext.time_reference_high) << 32) |
                                                      bext.time_reference_low);
  SF_LOOP_INFO loop{};
  if (sf_command(handleOf(r.handle_.get()), SFC_GET_LOOP_INFO, &loop, sizeof loop) == SF_TRUE &&
      loop.bpm >= static_cast<float>(kLowestTaggedBpm) && loop.bpm <= static_cast<float>(kHighestTaggedBpm))
    r.info_.bpm = static_cast<double>(loop.bpm);
  if (!r.info_.bpm) r.info_.bpm = taggedBpm(path, r.info_.format);
  SF_FORMAT_INFO name{info.format & SF_FORMAT_TYPEMASK, nullptr, nullptr};
  if (sf_command(nullptr, SFC_GET_FORMAT_INFO, &name, sizeof name) == 0 && name.name) r.info_.formatName = name.name;
  return r;
}

Result<AudioFileReader> AudioFileReader::openNotes(const std::filesystem::path& path) {
  const auto head = shown(path) + " cannot be read as notes";
  const auto midi = readMidiFile(path, head);
  if (!midi) return tl::unexpected(midi.error());
  auto notes = playedNotes(*midi, PlainTones::kRate, head);
  if (!notes) return tl::unexpected(notes.error());
  AudioFileReader r;
  r.path_ = path;
  r.tones_ = std::make_shared<PlainTones>(std::move(*notes));
  r.info_.rate = PlainTones::kRate;
  r.info_.channels = 1;
  r.info_.length = r.tones_->length();
  r.info_.format = FileFormat::other;
  r.info_.samples = SampleFormat::compressed;
  r.info_.formatName = "MIDI notes";
  // 120 is what a recorder writes that was told no tempo.
  if (midi->tempos.size() == 1 && std::abs(midi->tempos.front().bpm - 120) > 1e-3)
    r.info_.bpm = midi->tempos.front().bpm;
  return r;
}

void AudioFileReader::silenceNotNumbers(std::span<float> interleaved) {
  for (std::size_t i = 0; i < interleaved.size(); ++i) {
    if (std::isfinite(interleaved[i])) continue;
    interleaved[i] = 0;
    const Frames at{position_ + static_cast<std::int64_t>(i) / info_.channels};
    if (notNumbers_.count++ == 0) notNumbers_.first = at;
    notNumbers_.last = at;
  }
}

Result<std::int64_t> AudioFileReader::read(std::span<float> interleaved) {
  if (tones_) return tones_->read(interleaved);
  const auto frames = static_cast<sf_count_t>(interleaved.size()) / info_.channels;
  sf_count_t got = 0;
  {
    const QuietDecoders quiet(info_.format == FileFormat::mp3);
    got = sf_readf_float(handleOf(handle_.get()), interleaved.data(), frames);
  }
  if (sf_error(handleOf(handle_.get())) != SF_ERR_NO_ERROR)
    return fail(ErrorKind::damaged,
                shown(path_) + ": the sound is damaged after " + inSeconds(position_, info_.rate) +
                    ". Copy it again from its source.",
                sf_strerror(handleOf(handle_.get())));
  if (const auto fresh = interleaved.first(static_cast<std::size_t>(got * info_.channels)); !allFinite(fresh)) {
    if (damaged_ == Damaged::refuse)
      return fail(ErrorKind::damaged, shown(path_) + ": there are samples that are not numbers after " +
                                          inSeconds(position_, info_.rate) +
                                          ". Export the file again from its source, or use it with silence there.");
    silenceNotNumbers(fresh);
  }
  position_ += got;
  return static_cast<std::int64_t>(got);
}

}  // namespace ochron

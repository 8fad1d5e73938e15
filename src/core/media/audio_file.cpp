#include "media/audio_file.h"

#include <sndfile.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstring>
#include <fstream>

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
    case SF_FORMAT_OGG: return FileFormat::ogg;
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

// The library quietly shortens a WAV whose data chunk promises more than the file holds; we want to say so.
Result<void> checkRiffSizes(const std::filesystem::path& path) {
  std::ifstream in(path, std::ios::binary);
  std::array<char, 12> head{};
  if (!in.read(head.data(), head.size()) || std::memcmp(head.data() + 8, "WAVE", 4) != 0) return {};
  if (std::memcmp(head.data(), "RIFF", 4) != 0) return {};
  std::error_code ec;
  const auto fileSize = std::filesystem::file_size(path, ec);
  std::array<char, 8> chunk{};
  std::uint64_t at = 12;
  while (in.seekg(static_cast<std::streamoff>(at)) && in.read(chunk.data(), chunk.size())) {
    std::uint32_t size = 0;
    std::memcpy(&size, chunk.data() + 4, 4);
    at += 8;
    if (std::memcmp(chunk.data(), "data", 4) == 0) {
      if (size != 0xFFFFFFFFu && at + size > fileSize)
        return fail(ErrorKind::badInput, shown(path) + ": the data chunk says " + std::to_string(size) +
                                             " bytes, the file holds " + std::to_string(fileSize - at) +
                                             ". The file is cut short; copy it again from its source.");
      return {};
    }
    at += size + (size & 1u);
  }
  return {};
}

int sndfileFormat(const WriteFormat& f) {
  int type = SF_FORMAT_WAV;
  switch (f.format) {
    case FileFormat::flac: type = SF_FORMAT_FLAC; break;
    case FileFormat::aiff: type = SF_FORMAT_AIFF; break;
    case FileFormat::ogg: return SF_FORMAT_OGG | SF_FORMAT_VORBIS;
    default: break;
  }
  switch (f.samples) {
    case SampleFormat::pcm16: return type | SF_FORMAT_PCM_16;
    case SampleFormat::pcm32: return type | (f.format == FileFormat::flac ? SF_FORMAT_PCM_24 : SF_FORMAT_PCM_32);
    case SampleFormat::float32: return type | (f.format == FileFormat::flac ? SF_FORMAT_PCM_24 : SF_FORMAT_FLOAT);
    default: return type | SF_FORMAT_PCM_24;
  }
}

int bitsOf(const WriteFormat& f) {
  if (f.format == FileFormat::ogg) return 0;
  switch (f.samples) {
    case SampleFormat::pcm16: return 16;
    case SampleFormat::pcm32: return f.format == FileFormat::flac ? 24 : 32;
    case SampleFormat::float32: return f.format == FileFormat::flac ? 24 : 0;
    default: return 24;
  }
}

}  // namespace

void AudioFileReader::Closer::operator()(void* handle) const { sf_close(handleOf(handle)); }
void AudioFileWriter::Closer::operator()(void* handle) const { sf_close(handleOf(handle)); }

Result<AudioFileReader> AudioFileReader::open(const std::filesystem::path& path) {
  std::error_code ec;
  if (!std::filesystem::exists(path, ec))
    return fail(ErrorKind::notFound, path.string() + ": there is no such file. Check the name and the folder.");
  if (!std::filesystem::is_regular_file(path, ec))
    return fail(ErrorKind::badInput, path.string() + ": this is not a file. Name an audio file.");
  if (auto sizes = checkRiffSizes(path); !sizes) return tl::unexpected(sizes.error());
  AudioFileReader r;
  SF_INFO info{};
  r.handle_.reset(sf_open(path.c_str(), SFM_READ, &info));
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
  if (info.frames == 0)
    return fail(ErrorKind::badInput, shown(path) + ": the file holds no sound at all. Choose another file.");
  r.path_ = path;
  r.info_ = {
      info.samplerate, info.channels, Frames{info.frames}, formatOf(info.format), samplesOf(info.format), {}, {}};
  SF_BROADCAST_INFO bext{};
  if (sf_command(handleOf(r.handle_.get()), SFC_GET_BROADCAST_INFO, &bext, sizeof bext) == SF_TRUE)
    r.info_.timeReference = static_cast<std::int64_t>((static_cast<std::uint64_t>(bext.time_reference_high) << 32) |
                                                      bext.time_reference_low);
  SF_FORMAT_INFO name{info.format & SF_FORMAT_TYPEMASK, nullptr, nullptr};
  if (sf_command(nullptr, SFC_GET_FORMAT_INFO, &name, sizeof name) == 0 && name.name) r.info_.formatName = name.name;
  return r;
}

Result<std::int64_t> AudioFileReader::read(std::span<float> interleaved) {
  const auto frames = static_cast<sf_count_t>(interleaved.size()) / info_.channels;
  const auto got = sf_readf_float(handleOf(handle_.get()), interleaved.data(), frames);
  if (sf_error(handleOf(handle_.get())) != SF_ERR_NO_ERROR)
    return fail(ErrorKind::badInput,
                shown(path_) + ": the sound is damaged after " +
                    std::to_string(static_cast<double>(position_) / info_.rate) + " s. Copy the file again.",
                sf_strerror(handleOf(handle_.get())));
  float sum = 0;
  const auto samples = static_cast<std::size_t>(got * info_.channels);
  for (std::size_t i = 0; i < samples; ++i) sum += interleaved[i] * 0.0f;  // 0 unless something is NaN or infinite
  if (sum != 0.0f || std::isnan(sum))
    return fail(ErrorKind::badInput, shown(path_) + ": there are samples that are not numbers near " +
                                         std::to_string(static_cast<double>(position_) / info_.rate) +
                                         " s. Export the file again from its source.");
  position_ += got;
  return static_cast<std::int64_t>(got);
}

Result<AudioFileWriter> AudioFileWriter::create(const std::filesystem::path& path, const WriteFormat& format,
                                                std::optional<std::int64_t> timeReference,
                                                std::vector<FileMarker> markers) {
  AudioFileWriter w;
  w.target_ = path;
  w.beside_ = path.parent_path() / ("." + path.filename().string() + ".part" + std::to_string(::getpid()));
  w.format_ = format;
  SF_INFO info{};
  info.samplerate = format.rate;
  info.channels = format.channels;
  info.format = sndfileFormat(format);
  std::error_code ec;
  if (!path.parent_path().empty()) std::filesystem::create_directories(path.parent_path(), ec);
  w.handle_.reset(sf_open(w.beside_.c_str(), SFM_WRITE, &info));
  if (!w.handle_)
    return fail(ErrorKind::ioFailed,
                path.string() + ": this file cannot be written. Check the folder, its rights and the free space.",
                sf_strerror(nullptr));
  auto* handle = handleOf(w.handle_.get());
  sf_command(handle, SFC_SET_CLIPPING, nullptr, SF_TRUE);
  if (format.format == FileFormat::wav) sf_command(handle, SFC_RF64_AUTO_DOWNGRADE, nullptr, SF_TRUE);
  if (timeReference && format.format == FileFormat::wav) {
    SF_BROADCAST_INFO bext{};
    bext.time_reference_low = static_cast<std::uint32_t>(*timeReference);
    bext.time_reference_high = static_cast<std::uint32_t>(static_cast<std::uint64_t>(*timeReference) >> 32);
    bext.version = 1;
    sf_command(handle, SFC_SET_BROADCAST_INFO, &bext, sizeof bext);
  }
  if (!markers.empty() && format.format == FileFormat::wav) {
    SF_CUES cues{};
    cues.cue_count = static_cast<std::uint32_t>(std::min<std::size_t>(markers.size(), 100));
    for (std::uint32_t i = 0; i < cues.cue_count; ++i) {
      auto& c = cues.cue_points[i];
      c.indx = static_cast<std::int32_t>(i + 1);
      c.position = c.sample_offset = static_cast<std::uint32_t>(markers[i].at.value);
      c.fcc_chunk = 0x61746164;  // "data"
      std::strncpy(c.name, markers[i].name.c_str(), sizeof c.name - 1);
    }
    sf_command(handle, SFC_SET_CUE, &cues, sizeof cues);
  }
  return w;
}

AudioFileWriter::~AudioFileWriter() {
  if (!handle_) return;
  handle_.reset();
  std::error_code ec;
  std::filesystem::remove(beside_, ec);
}
AudioFileWriter::AudioFileWriter(AudioFileWriter&&) noexcept = default;
AudioFileWriter& AudioFileWriter::operator=(AudioFileWriter&&) noexcept = default;

Result<void> AudioFileWriter::write(std::span<const float> interleaved) {
  for (const float s : interleaved) clipped_ += std::abs(s) > 1.0f ? 1 : 0;
  auto* handle = handleOf(handle_.get());
  const auto count = static_cast<sf_count_t>(interleaved.size());
  sf_count_t done = 0;
  if (const int bits = bitsOf(format_); bits == 0) {
    done = sf_write_float(handle, interleaved.data(), count);
  } else {
    // Readers divide by 2^(bits-1); multiplying by the same keeps unchanged samples unchanged, which the library's own
    // float path (2^(bits-1) - 1) does not.
    scratch_.resize(interleaved.size());
    const double scale = std::ldexp(1.0, bits - 1);
    for (std::size_t i = 0; i < interleaved.size(); ++i) {
      const double step = std::clamp(std::nearbyint(interleaved[i] * scale), -scale, scale - 1);
      scratch_[i] = static_cast<int>(static_cast<std::int64_t>(step) * (std::int64_t{1} << (32 - bits)));
    }
    done = sf_write_int(handle, scratch_.data(), count);
  }
  if (done != count)
    return fail(ErrorKind::ioFailed, target_.string() + ": writing stopped. Make room on the disk and try again.",
                sf_strerror(handle));
  return {};
}

Result<void> AudioFileWriter::finish() {
  sf_write_sync(handleOf(handle_.get()));
  const bool closed = sf_close(handleOf(handle_.release())) == 0;
  std::error_code ec;
  if (closed) std::filesystem::rename(beside_, target_, ec);
  if (!closed || ec) {
    std::error_code ignored;
    std::filesystem::remove(beside_, ignored);
    return fail(ErrorKind::ioFailed,
                target_.string() + ": the file could not be finished. Check the folder and the free space.",
                ec.message());
  }
  return {};
}

FileFormat formatForName(const std::filesystem::path& path) {
  auto ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  if (ending == ".wav" || ending == ".bwf" || ending == ".wave") return FileFormat::wav;
  if (ending == ".flac") return FileFormat::flac;
  if (ending == ".aif" || ending == ".aiff") return FileFormat::aiff;
  if (ending == ".ogg" || ending == ".oga") return FileFormat::ogg;
  if (ending == ".mp3") return FileFormat::mp3;
  return FileFormat::other;
}

const char* extensionOf(FileFormat format) {
  switch (format) {
    case FileFormat::flac: return ".flac";
    case FileFormat::aiff: return ".aiff";
    case FileFormat::ogg: return ".ogg";
    default: return ".wav";
  }
}

}  // namespace ochron

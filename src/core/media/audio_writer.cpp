#include <sndfile.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstring>
#include <limits>

#include "media/audio_file.h"
#include "media/tags.h"

namespace ochron {
namespace {

constexpr int kMostOfAFile = 64;

SNDFILE* writing(void* h) { return static_cast<SNDFILE*>(h); }

constexpr std::int64_t kMostBytes = 0xFFFF'FFFF;  // sizes in WAV and AIFF files are numbers of 32 bits
constexpr std::int64_t kRoomBeside = 1 << 20;     // what is told besides the sound

int bytesOfSample(SampleFormat samples) {
  switch (samples) {
    case SampleFormat::pcm16: return 2;
    case SampleFormat::pcm32:
    case SampleFormat::float32: return 4;
    default: return 3;
  }
}

/// Frames that fit into a file whose sizes are numbers of 32 bits.
std::int64_t mostFrames32(const WriteFormat& f) {
  return (kMostBytes - kRoomBeside) / (bytesOfSample(f.samples) * f.channels);
}
bool isLarge(const WriteFormat& f) { return f.length.value > mostFrames32(f); }

std::int64_t mostFrames(const WriteFormat& f) {
  const bool small = f.format == FileFormat::aiff || (f.format == FileFormat::wav && !isLarge(f));
  return small ? mostFrames32(f) : std::numeric_limits<std::int64_t>::max();
}

tl::unexpected<Error> tooLarge(const std::filesystem::path& target) {
  return fail(ErrorKind::badInput, target.string() +
                                       ": the sound does not fit into this kind of file, which ends at 4 GiB. Choose "
                                       "FLAC or WAV, fewer bits or a shorter range.");
}

int sndfileFormat(const WriteFormat& f) {
  int type = isLarge(f) ? SF_FORMAT_RF64 : SF_FORMAT_WAV;
  switch (f.format) {
    case FileFormat::flac: type = SF_FORMAT_FLAC; break;
    case FileFormat::aiff: type = SF_FORMAT_AIFF; break;
    case FileFormat::ogg: return SF_FORMAT_OGG | SF_FORMAT_VORBIS;
    case FileFormat::opus: return SF_FORMAT_OGG | SF_FORMAT_OPUS;
    case FileFormat::mp3: return SF_FORMAT_MPEG | SF_FORMAT_MPEG_LAYER_III;
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
  if (isPacked(f.format)) return 0;
  switch (f.samples) {
    case SampleFormat::pcm16: return 16;
    case SampleFormat::pcm32: return f.format == FileFormat::flac ? 24 : 32;
    case SampleFormat::float32: return f.format == FileFormat::flac ? 24 : 0;
    default: return 24;
  }
}

constexpr std::array kOpusRates{8'000, 12'000, 16'000, 24'000, 48'000};
constexpr std::array kMp3Rates{8'000, 11'025, 12'000, 16'000, 22'050, 24'000, 32'000, 44'100, 48'000};

}  // namespace

bool isPacked(FileFormat format) {
  return format == FileFormat::ogg || format == FileFormat::opus || format == FileFormat::mp3;
}

int rateFor(FileFormat format, int wanted) {
  std::span<const int> rates;
  if (format == FileFormat::opus) rates = kOpusRates;
  if (format == FileFormat::mp3) rates = kMp3Rates;
  if (rates.empty()) return wanted;
  return *std::min_element(rates.begin(), rates.end(), [&](int a, int b) {
    const int fromA = std::abs(a - wanted);
    const int fromB = std::abs(b - wanted);
    return fromA != fromB ? fromA < fromB : a > b;
  });
}

int mostChannels(FileFormat format) {
  switch (format) {
    case FileFormat::flac:
    case FileFormat::opus: return 8;
    case FileFormat::mp3: return 2;
    default: return kMostOfAFile;
  }
}

void AudioFileWriter::Closer::operator()(void* handle) const { sf_close(writing(handle)); }

namespace {

template <std::size_t N>
void put(char (&field)[N], const std::string& text) {
  std::copy_n(text.begin(), std::min(text.size(), N), std::begin(field));
}

/// The chunk of EBU Tech 3285: what it is, who made it, where it lies, how it was coded (EBU R 98). Without a date, so
/// that equal exports are equal files.
void putBroadcast(SNDFILE* handle, const WriteFormat& format, const std::string& title, std::int64_t frames) {
  SF_BROADCAST_INFO bext{};
  put(bext.description, title);
  put(bext.originator, "Orthochron");
  const int bits = bitsOf(format);
  const auto history = "A=PCM,F=" + std::to_string(format.rate) + ",W=" + std::to_string(bits == 0 ? 32 : bits) +
                       ",M=" +
                       (format.channels == 1   ? "mono"
                        : format.channels == 2 ? "stereo"
                                               : "multi-channel") +
                       ",T=Orthochron\r\n";
  put(bext.coding_history, history);
  bext.coding_history_size = static_cast<std::uint32_t>(history.size());
  bext.time_reference_low = static_cast<std::uint32_t>(frames);
  bext.time_reference_high = static_cast<std::uint32_t>(static_cast<std::uint64_t>(frames) >> 32);
  bext.version = 1;
  sf_command(handle, SFC_SET_BROADCAST_INFO, &bext, sizeof bext);
}

void appendLittle(std::vector<char>& to, std::uint32_t v) {
  for (int i = 0; i < 4; ++i) to.push_back(static_cast<char>(v >> (8 * i) & 0xffu));
}

/// `id`: four characters.
void putChunk(SNDFILE* handle, const char* id, std::vector<char>& data) {
  SF_CHUNK_INFO chunk{};
  std::memcpy(chunk.id, id, 4);
  chunk.id_size = 4;
  chunk.datalen = static_cast<unsigned>(data.size());
  chunk.data = data.data();
  sf_set_chunk(handle, &chunk);
}

/// Cue points, and their names as a list of labels (Multimedia Programming Interface and Data Specifications 1.0).
void putMarkers(SNDFILE* handle, const std::vector<FileMarker>& markers) {
  std::vector<char> cues;
  std::vector<char> labels{'a', 'd', 't', 'l'};
  const auto put = [](std::vector<char>& to, std::string_view text) { to.insert(to.end(), text.begin(), text.end()); };
  appendLittle(cues, static_cast<std::uint32_t>(markers.size()));
  for (std::size_t i = 0; i < markers.size(); ++i) {
    const auto id = static_cast<std::uint32_t>(i + 1);
    const auto at = static_cast<std::uint32_t>(markers[i].at.value);
    appendLittle(cues, id);
    appendLittle(cues, at);  // in the order of playing
    put(cues, "data");
    appendLittle(cues, 0);  // of the chunk
    appendLittle(cues, 0);  // of the block
    appendLittle(cues, at);
    // Names end in as many zeros as make the list's length a multiple of four: the library pads it to that, and readers
    // take padding for another label.
    std::string name = markers[i].name;
    do name.push_back('\0');
    while (name.size() % 4 != 0);
    put(labels, "labl");
    appendLittle(labels, static_cast<std::uint32_t>(4 + name.size()));
    appendLittle(labels, id);
    put(labels, name);
  }
  putChunk(handle, "cue ", cues);
  putChunk(handle, "LIST", labels);
}

/// The chunk in which loops tell their tempo: what it is for, root note, beats, meter, BPM.
void putTempo(SNDFILE* handle, double bpm, const std::optional<FileKey>& key) {
  constexpr std::uint32_t kHasRoot = 2;
  constexpr std::uint32_t kStretches = 4;
  constexpr int kMiddleC = 60;
  std::vector<char> data;
  appendLittle(data, key ? kStretches | kHasRoot : kStretches);
  data.push_back(static_cast<char>(key ? kMiddleC + key->tonic : 0));
  for (int i = 0; i < 11; ++i) data.push_back(0);  // of the root note, unused, beats: not said
  for (const char x : {4, 0, 4, 0}) data.push_back(x);
  const auto tempo = static_cast<float>(bpm);
  std::uint32_t bits = 0;
  std::memcpy(&bits, &tempo, sizeof bits);
  appendLittle(data, bits);
  putChunk(handle, "acid", data);
}

}  // namespace

Result<AudioFileWriter> AudioFileWriter::create(Outputs& outputs, const std::filesystem::path& path,
                                                const WriteFormat& format, const WriteNotes& notes) {
  if (format.length.value > mostFrames(format)) return tooLarge(path);
  if (format.channels > mostChannels(format.format))
    return fail(ErrorKind::badInput, path.string() + ": a file of this kind holds at most " +
                                         std::to_string(mostChannels(format.format)) + " channels, not " +
                                         std::to_string(format.channels) + ". Choose WAV.");
  if (rateFor(format.format, format.rate) != format.rate)
    return fail(ErrorKind::badInput, path.string() + ": a file of this kind cannot run at " +
                                         std::to_string(format.rate) + " Hz. Choose " +
                                         std::to_string(rateFor(format.format, format.rate)) + " Hz.");
  auto part = outputs.stage(path);
  if (!part) return tl::unexpected(part.error());
  AudioFileWriter w;
  w.target_ = path;
  w.part_ = *part;
  w.format_ = format;
  w.mostFrames_ = mostFrames(format);
  SF_INFO info{};
  info.samplerate = format.rate;
  info.channels = format.channels;
  info.format = sndfileFormat(format);
  w.handle_.reset(sf_open(w.part_.c_str(), SFM_WRITE, &info));
  if (!w.handle_)
    return fail(ErrorKind::ioFailed,
                path.string() + ": this file cannot be written. Check the folder, its rights and the free space.",
                sf_strerror(nullptr));
  auto* handle = writing(w.handle_.get());
  sf_command(handle, SFC_SET_CLIPPING, nullptr, SF_TRUE);
  if (isPacked(format.format)) {
    double packing = 1 - std::clamp(format.quality, 0.0, 100.0) / 100;
    sf_command(handle, SFC_SET_COMPRESSION_LEVEL, &packing, sizeof packing);
  }
  if (format.format != FileFormat::wav) {
    if (notes.bpm && *notes.bpm >= kLowestTaggedBpm && *notes.bpm <= kHighestTaggedBpm) w.tagged_.bpm = notes.bpm;
    w.tagged_.key = notes.key;
    if (format.format != FileFormat::aiff) w.tagged_.chapters = notes.markers;
    return w;
  }
  if (notes.timeReference) putBroadcast(handle, format, notes.title, *notes.timeReference);
  if (notes.bpm) putTempo(handle, *notes.bpm, notes.key);
  if (!notes.markers.empty()) putMarkers(handle, notes.markers);
  return w;
}

Result<AudioFileWriter> AudioFileWriter::create(const std::filesystem::path& path, const WriteFormat& format,
                                                const WriteNotes& notes) {
  Outputs own;
  auto w = create(own, path, format, notes);
  if (w) w->own_.emplace(std::move(own));
  return w;
}

AudioFileWriter::~AudioFileWriter() = default;
AudioFileWriter::AudioFileWriter(AudioFileWriter&&) noexcept = default;

namespace {
/// Noise of -1 to 1 steps whose density is a triangle. The generator is Marsaglia's xorshift64, so that equal exports
/// are equal files.
double triangularNoise(std::uint64_t& state) {
  state ^= state << 13;
  state ^= state >> 7;
  state ^= state << 17;
  constexpr double kHalf = 4294967296.0;
  return static_cast<double>(state >> 32) / kHalf - static_cast<double>(state & 0xFFFF'FFFF) / kHalf;
}
}  // namespace

Result<void> AudioFileWriter::write(std::span<const float> interleaved) {
  for (const float s : interleaved) clipped_ += std::abs(s) > 1.0f ? 1 : 0;
  frames_ += std::ssize(interleaved) / format_.channels;
  if (frames_ > mostFrames_) return tooLarge(target_);
  auto* handle = writing(handle_.get());
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
      double value = interleaved[i] * scale;
      if (format_.dither && value != std::nearbyint(value)) value += triangularNoise(noise_);
      const double step = std::clamp(std::nearbyint(value), -scale, scale - 1);
      scratch_[i] = static_cast<int>(static_cast<std::int64_t>(step) * (std::int64_t{1} << (32 - bits)));
    }
    done = sf_write_int(handle, scratch_.data(), count);
  }
  if (done != count)
    return fail(ErrorKind::ioFailed, target_.string() + ": writing stopped. Make room on the disk and try again.",
                sf_strerror(handle));
  return {};
}

Result<void> AudioFileWriter::writeChannels(std::span<const Samples> channels) {
  constexpr std::size_t kBlock = 8192;
  const auto wide = channels.size();
  std::array<float, kBlock> side;
  for (std::size_t at = 0; at < channels.front().size(); at += kBlock) {
    const auto n = std::min(kBlock, channels.front().size() - at);
    room_.resize(n * wide);
    for (std::size_t c = 0; c < wide; ++c) {
      channels[c].subspan(at, n).read(std::span(side).first(n));
      for (std::size_t i = 0; i < n; ++i) room_[i * wide + c] = side[i];
    }
    if (auto ok = write(room_); !ok) return ok;
  }
  return {};
}

Result<void> AudioFileWriter::finish() {
  sf_write_sync(writing(handle_.get()));
  const bool closed = sf_close(writing(handle_.release())) == 0;
  if (closed && !tagged_.empty()) tempoTold_ = writeTags(part_, format_.format, tagged_, format_.rate, Frames{frames_});
  // A coder that could not write its last blocks does not always say so.
  SF_INFO info{};
  SNDFILE* again = closed ? sf_open(part_.c_str(), SFM_READ, &info) : nullptr;
  if (again) sf_close(again);
  if (!again || (!isPacked(format_.format) && info.frames != frames_))
    return fail(ErrorKind::ioFailed, target_.string() +
                                         ": the file could not be finished. Make room on the disk and "
                                         "try again; what was there before is unharmed.");
  return own_ ? own_->commit() : Result<void>{};
}

FileFormat formatForName(const std::filesystem::path& path) {
  auto ending = path.extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  if (ending == ".wav" || ending == ".bwf" || ending == ".wave") return FileFormat::wav;
  if (ending == ".flac") return FileFormat::flac;
  if (ending == ".aif" || ending == ".aiff") return FileFormat::aiff;
  if (ending == ".ogg" || ending == ".oga") return FileFormat::ogg;
  if (ending == ".opus") return FileFormat::opus;
  if (ending == ".mp3") return FileFormat::mp3;
  return FileFormat::other;
}

const char* extensionOf(FileFormat format) {
  switch (format) {
    case FileFormat::flac: return ".flac";
    case FileFormat::aiff: return ".aiff";
    case FileFormat::ogg: return ".ogg";
    case FileFormat::opus: return ".opus";
    case FileFormat::mp3: return ".mp3";
    default: return ".wav";
  }
}

}  // namespace ochron

#include "media/header_check.h"

#include <array>
#include <cstring>
#include <fstream>
#include <limits>
#include <string_view>

namespace ochron {
namespace {

constexpr std::uint32_t kOpen32 = 0xFFFFFFFFu;
constexpr int kMostChunks = 100'000;

/// Reads numbers at places of a file.
class Source {
 public:
  explicit Source(const std::filesystem::path& file) : in_(file, std::ios::binary) {
    std::error_code ec;
    size_ = std::filesystem::file_size(file, ec);
    if (ec) size_ = 0;
  }
  std::uint64_t size() const { return size_; }
  bool is(std::uint64_t at, std::string_view word) {
    std::array<char, 4> have{};
    return read(at, have.data(), word.size()) && std::memcmp(have.data(), word.data(), word.size()) == 0;
  }
  std::uint64_t little(std::uint64_t at, int bytes) { return number(at, bytes, false); }
  std::uint64_t big(std::uint64_t at, int bytes) { return number(at, bytes, true); }

 private:
  bool read(std::uint64_t at, char* to, std::size_t n) {
    if (at > size_ || n > size_ - at) return false;
    in_.clear();
    in_.seekg(static_cast<std::streamoff>(at));
    return static_cast<bool>(in_.read(to, static_cast<std::streamsize>(n)));
  }
  std::uint64_t number(std::uint64_t at, int bytes, bool bigEndian) {
    std::array<char, 8> b{};
    if (!read(at, b.data(), static_cast<std::size_t>(bytes))) return 0;
    std::uint64_t v = 0;
    for (int i = 0; i < bytes; ++i)
      v = v << 8 | static_cast<unsigned char>(b[static_cast<std::size_t>(bigEndian ? i : bytes - 1 - i)]);
    return v;
  }
  std::ifstream in_;
  std::uint64_t size_ = 0;
};

std::optional<SoundBytes> held(Source& in, std::uint64_t start, std::uint64_t promised, bool lowestFirst) {
  return SoundBytes{promised, std::min(promised, in.size() > start ? in.size() - start : 0), start, lowestFirst};
}

/// How the chunks of a format are laid out.
struct Layout {
  std::uint64_t first = 12;    ///< place of the first chunk
  std::uint64_t head = 8;      ///< bytes before a chunk's content
  std::uint64_t sizeAt = 4;    ///< place of the size within the head
  int sizeBytes = 4;           ///<
  bool bigEndian = false;      ///<
  bool sizeHoldsHead = false;  ///< the size counts the head too
  std::uint64_t align = 2;     ///< chunks begin at multiples of this
  std::string_view sound = "data";
};

/// Finds the chunk of sound. `wide` is its size where the chunk's own says "elsewhere" (RF64); 0: left open.
std::optional<SoundBytes> walk(Source& in, const Layout& l, std::uint64_t wide) {
  std::uint64_t at = l.first;
  for (int n = 0; n < kMostChunks && at < in.size() && in.size() - at >= l.head; ++n) {
    auto size = l.bigEndian ? in.big(at + l.sizeAt, l.sizeBytes) : in.little(at + l.sizeAt, l.sizeBytes);
    const bool open = l.sizeBytes == 4 ? size == kOpen32 : size == std::numeric_limits<std::uint64_t>::max();
    if (in.is(at, l.sound)) {
      if (open && wide == 0) return std::nullopt;
      if (open) size = wide;
      if (l.sizeHoldsHead) size -= std::min(size, l.head);
      return held(in, at + l.head, size, !l.bigEndian);
    }
    if (open || size > in.size()) return std::nullopt;
    const auto step = (l.sizeHoldsHead ? size : size + l.head);
    at += std::max<std::uint64_t>(l.head, (step + l.align - 1) / l.align * l.align);
  }
  return std::nullopt;
}

}  // namespace

std::optional<SoundBytes> soundBytesOf(const std::filesystem::path& file) {
  Source in(file);
  if (in.is(0, "RIFF") && in.is(8, "WAVE")) return walk(in, {}, 0);
  if ((in.is(0, "RF64") || in.is(0, "BW64")) && in.is(8, "WAVE")) {
    // EBU Tech 3306: the chunk "ds64" comes first; its second number is the size of the data chunk.
    const auto wide = in.is(12, "ds64") ? in.little(28, 8) : 0;
    return walk(in, {}, wide);
  }
  if (in.is(0, "FORM") && (in.is(8, "AIFF") || in.is(8, "AIFC"))) {
    auto found = walk(in, {.bigEndian = true, .sound = "SSND"}, 0);
    constexpr std::uint64_t kSoundHead = 8;  // offset and block size stand before the samples
    if (found) {
      found->promised -= std::min(found->promised, kSoundHead);
      found->held -= std::min(found->held, kSoundHead);
      found->at += kSoundHead;
    }
    return found;
  }
  if (in.is(0, "riff") && in.is(24, "wave"))
    return walk(in, {.first = 40, .head = 24, .sizeAt = 16, .sizeBytes = 8, .sizeHoldsHead = true, .align = 8}, 0);
  if (in.is(0, "caff"))
    return walk(in, {.first = 8, .head = 12, .sizeAt = 4, .sizeBytes = 8, .bigEndian = true, .align = 1}, 0);
  if (in.is(0, ".snd")) {
    const auto size = in.big(8, 4);
    if (size != kOpen32) return held(in, in.big(4, 4), size, false);
  }
  return std::nullopt;
}

std::int64_t mostFrames(Packing packing, std::uint64_t bytes) {
  // FLAC: blocks of at most 65 535 samples (RFC 9639), a block of one constant value takes 10 bytes or more. Vorbis: a
  // packet of one byte and its length in the page gives at most 4 096 new samples; Opus packets 5 760 for two bytes.
  // MPEG audio: at most 1 152 samples for 24 bytes.
  double perByte = 0;
  switch (packing) {
    case Packing::flac: perByte = 65'535.0 / 10; break;
    case Packing::vorbisOrOpus: perByte = 2'880; break;
    case Packing::mpeg: perByte = 48; break;
    case Packing::other: perByte = 64; break;
  }
  const double most = perByte * static_cast<double>(bytes) + 65'536;
  return most > 9e18 ? std::numeric_limits<std::int64_t>::max() : static_cast<std::int64_t>(most);
}

}  // namespace ochron

#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>

namespace ochron {

/// What a file's header promises about its sound, held against the file: libraries quietly shorten it.
struct SoundBytes {
  std::uint64_t promised = 0;
  std::uint64_t held = 0;
  std::uint64_t at = 0;      ///< where in the file the sound begins
  bool lowestFirst = false;  ///< samples of several bytes begin with the lowest
};

/// The bytes of sound promised and held, and where they lie, of WAV (RIFF, RF64, BW64), AIFF, W64, AU and CAF files.
/// None for other formats and where the header leaves the length open.
std::optional<SoundBytes> soundBytesOf(const std::filesystem::path& file);

/// The most frames that `bytes` of one of the packed formats can hold, whatever a header claims.
enum class Packing { flac, vorbisOrOpus, mpeg, other };
std::int64_t mostFrames(Packing packing, std::uint64_t bytes);

}  // namespace ochron

#pragma once

#include <filesystem>
#include <optional>

#include "media/audio_file.h"

namespace ochron {

/// Tempos that a file's tags may tell; anything else is taken for none.
inline constexpr double kLowestTaggedBpm = 10;
inline constexpr double kHighestTaggedBpm = 999;

/// The tempo in a file's tags (ID3 "TBPM" of MP3, AIFF and WAV, "BPM" or "TEMPO" comments of FLAC and Ogg), by TagLib.
std::optional<double> taggedBpm(const std::filesystem::path& file, FileFormat format);

/// Writes it there; for FLAC, Ogg and AIFF. False when the file cannot be written.
bool tagBpm(const std::filesystem::path& file, FileFormat format, double bpm);

}  // namespace ochron

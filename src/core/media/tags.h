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

/// Writes what is told to a finished file of `length` frames at `rate`: the tempo, and chapters as comments
/// (CHAPTER001 and CHAPTER001NAME of FLAC, Ogg and Opus) or frames (ID3v2 Chapter Frame Addendum 1.0 of MP3). Not for
/// WAV. False when the file cannot be written.
bool writeTags(const std::filesystem::path& file, FileFormat format, const FileTags& tags, int rate, Frames length);

}  // namespace ochron

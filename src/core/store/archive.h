#pragma once

#include <filesystem>

#include "base/progress.h"
#include "base/result.h"
#include "files/outputs.h"
#include "song/song.h"

namespace ochron {

/// How recordings lie in an archive.
enum class ArchivePacking {
  none,  ///< the files as they are
  flac,  ///< those that FLAC holds to the bit (16 and 24 bit) as FLAC: the song in it names these
};

/// Writes a song with all its recordings and sounds into one ZIP file, as some of `outputs`: a project folder that any
/// program unpacks. Each recording is held against what the song was made with; what is in the file is read again
/// before this returns. Fails when one is missing, is another one, or has no room.
Result<void> writeArchive(const Song& song, const std::filesystem::path& target, Outputs& outputs, Progress& progress,
                          ArchivePacking packing = ArchivePacking::none);

/// Unpacks such a file into `folder`, which is not there yet or empty: it appears whole or not at all, and holds an
/// equal song. Fails on files that are no such archive, on names that lead out of the folder, on damage, and when a
/// recording is not what the song was made with.
Result<Song> unpackArchive(const std::filesystem::path& file, const std::filesystem::path& folder, Progress& progress);

/// Files in a project's media/, and what effects held (folders), that none of these songs uses, in order. The songs'
/// prints use what they were made of.
std::vector<std::filesystem::path> unusedFiles(const std::filesystem::path& folder, const std::vector<Song>& songs);
/// Moves them into the project's `set aside/`; none is deleted. All or none.
Result<void> setAsideUnused(const std::filesystem::path& folder, const std::vector<std::filesystem::path>& files);

}  // namespace ochron

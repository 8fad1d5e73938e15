#pragma once

#include <filesystem>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Recordings and sounds of a song that lie outside of its folder.
std::vector<MediaId> lyingElsewhere(const Song& song, const std::filesystem::path& folder);

/// Copies one recording's file and holds the copy against what the song was made with. Under its name only once it is
/// whole; else nothing is there.
Result<void> copyRecording(const Media& media, const std::filesystem::path& to, Progress& progress);

/// Copies them into the folder's media/, each checked by its content, and gives back the song that names the copies.
/// The originals stay where they are. Fails, leaving no copy behind, when one cannot be read, is not what the song was
/// made with, or has no room. `copied`: the files that are new.
Result<Song> gatherRecordings(const Song& song, const std::filesystem::path& folder,
                              std::vector<std::filesystem::path>& copied, Progress& progress);

}  // namespace ochron

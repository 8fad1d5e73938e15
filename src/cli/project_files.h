#pragma once

#include <filesystem>
#include <string>

#include "base/result.h"
#include "media/pool.h"
#include "render/whole_sound.h"
#include "song/song.h"

namespace ochron::cli {

/// A project with its recordings.
struct ProjectFiles {
  std::filesystem::path folder;
  Song song;
  MediaPool pool;
  std::filesystem::path cacheFolder;
};
Result<ProjectFiles> loadProject(const std::string& project, Damaged damaged);

/// A project ready to be written.
Result<WholeSound> readySong(const ProjectFiles& files, MadeStore& made, Frames from);

/// "5-8": bars 5 to 8, both whole, counted from 1; "5": that bar. Bars after the song's end are refused.
Result<FrameRange> parseBars(const std::string& text, const Song& song);

/// Fails when a window has the project open.
Result<void> notOpen(const std::string& project);

}  // namespace ochron::cli

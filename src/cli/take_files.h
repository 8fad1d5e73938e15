#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "files/temporary.h"
#include "media/audio_file.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron::cli {

/// The files of one command as a song with one take and one mic set.
struct TakeFiles {
  Song song;
  MediaPool pool;
  std::vector<AudioFileInfo> infos;
  TakeId take;
  SetId set;
};

/// Reads the files at the first one's rate. `guides` are indices; empty: all.
/// Damaged ones are refused unless they are accepted.
Result<TakeFiles> loadTake(const std::vector<std::string>& files, const std::vector<int>& guides, Damaged damaged,
                           const std::filesystem::path& scratch);
/// Finds hits on the guides and stores them with the take.
Result<void> findHits(TakeFiles& files, double sensitivity);

/// Runs `work` while its progress goes to standard error, if that is a terminal.
void withProgress(const char* what, Progress& progress, const std::function<void()>& work);

}  // namespace ochron::cli

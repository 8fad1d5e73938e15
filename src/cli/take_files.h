#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
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

/// A folder that is gone when this is.
class ScratchFolder {
 public:
  ScratchFolder();
  ~ScratchFolder();
  ScratchFolder(const ScratchFolder&) = delete;
  ScratchFolder& operator=(const ScratchFolder&) = delete;
  const std::filesystem::path& path() const { return path_; }

 private:
  std::filesystem::path path_;
};

/// Reads the files at the first one's rate. `guides` are indices; empty: all.
Result<TakeFiles> loadTake(const std::vector<std::string>& files, const std::vector<int>& guides,
                           const std::filesystem::path& scratch);
/// Finds hits on the guides and stores them with the take.
Result<void> findHits(TakeFiles& files, double sensitivity);

/// Runs `work` while its progress goes to standard error, if that is a terminal.
void withProgress(const char* what, Progress& progress, const std::function<void()>& work);

}  // namespace ochron::cli

#pragma once

#include <filesystem>
#include <string>

#include "base/result.h"
#include "media/pool.h"
#include "render/made_store.h"
#include "render/plan.h"
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

/// A project ready to be written: all its sound made.
struct ReadySong {
  MediaPool tuned;
  RenderPlan plan;
};
Result<ReadySong> readySong(const ProjectFiles& files, MadeStore& made, Frames from);

}  // namespace ochron::cli

#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "base/progress.h"
#include "media/decoded.h"
#include "song/incoming_sounds.h"

namespace ochron {

/// A set of sounds with its samples.
struct LoadedSounds {
  IncomingSoundSet set;
  std::vector<std::shared_ptr<const DecodedMedia>> media;  ///< as set.files
};

/// Reads the samples of a set at a rate (Hz); copies are kept in `cacheFolder`. Fails, with the file's name, on one
/// that cannot be read, holds no frames or is longer than ten minutes.
Result<LoadedSounds> loadSounds(const SoundSetFile& file, int rate, const std::filesystem::path& cacheFolder,
                                Progress& progress);

}  // namespace ochron

#pragma once

#include <filesystem>
#include <memory>

#include "song/song.h"

namespace ochron {

/// The open song's changes that no save holds yet, at hand for the moment in which the program is told to end: they are
/// written at once, whatever else runs. One for the whole program; any thread.
class LastCopy {
 public:
  /// The song has become this, and its copy for the time between saves belongs into `folder`.
  static void hold(std::shared_ptr<const Song> song, const std::filesystem::path& folder);
  /// All of it is saved, or not wanted.
  static void forget();
  /// Writes it, if there is something to write.
  static void write();
};

}  // namespace ochron

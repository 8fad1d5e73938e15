#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "base/result.h"

namespace ochron {

/// Songs that were not saved and that the user did not want just now: kept, named and dated, until thrown away by hand.
/// Each is a project folder of its own in one folder of the user's.
class KeptCopies {
 public:
  struct Copy {
    std::filesystem::path folder;
    std::string name;       ///< of the song
    std::int64_t when = 0;  ///< seconds since 1970, when it was last changed
    bool damaged = false;   ///< the file is there as it was, but cannot be read as a song
  };

  explicit KeptCopies(std::filesystem::path home) : home_(std::move(home)) {}
  /// Moves the autosaved copy that lies in `folder` here. It is gone there only when it stands here.
  Result<Copy> takeFrom(const std::filesystem::path& folder, const std::string& name);
  /// Newest first.
  std::vector<Copy> list() const;
  static void remove(const Copy& copy);

 private:
  std::filesystem::path home_;
};

}  // namespace ochron

#pragma once

#include <cstdint>
#include <filesystem>

namespace ochron {

struct CacheLimits {
  std::uint64_t mostBytes = std::uint64_t{40} << 30;
  int mostDays = 90;  ///< since last used
};

/// Removes decoded copies that were not used for long, then the longest unused until the rest fits, and what killed
/// processes left. Copies in use go on being readable. Never touches other files.
void trimCache(const std::filesystem::path& folder, const CacheLimits& limits = {});

/// Notes that a copy is in use.
void touchCached(const std::filesystem::path& file);

}  // namespace ochron

#include "media/cache_folder.h"

#include <algorithm>
#include <chrono>
#include <vector>

#include "files/temporary.h"

namespace ochron {
namespace fs = std::filesystem;

void touchCached(const fs::path& file) {
  std::error_code ec;
  fs::last_write_time(file, fs::file_time_type::clock::now(), ec);
}

void trimCache(const fs::path& folder, const CacheLimits& limits) {
  struct Copy {
    fs::path file;
    fs::file_time_type used;
    std::uint64_t bytes = 0;
  };
  removeStaleParts(folder);
  std::vector<Copy> copies;
  std::error_code ec;
  for (fs::directory_iterator at(folder, ec); !ec && at != fs::directory_iterator(); at.increment(ec)) {
    std::error_code one;
    Copy c{at->path(), at->last_write_time(one), at->file_size(one)};
    if (!one && c.file.extension() == ".decoded") copies.push_back(std::move(c));
  }
  std::sort(copies.begin(), copies.end(), [](const Copy& a, const Copy& b) { return a.used > b.used; });
  const auto oldest = fs::file_time_type::clock::now() - std::chrono::hours(24 * limits.mostDays);
  std::uint64_t total = 0;
  for (const auto& c : copies) {
    total += c.bytes;
    if (c.used < oldest || total > limits.mostBytes) fs::remove(c.file, ec);
  }
}

}  // namespace ochron

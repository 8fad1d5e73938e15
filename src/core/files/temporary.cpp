#include "files/temporary.h"

#include <unistd.h>

#include <atomic>
#include <cstdlib>
#include <cstring>
#include <mutex>
#include <set>

#include "files/process_id.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kPartStart = ".orthochron-";
constexpr const char* kPartEnd = ".part";
constexpr const char* kScratchStart = "orthochron-scratch-";

/// Paths this process has to remove, kept until they are forgotten.
class Owned {
 public:
  void add(const fs::path& path) {
    const std::scoped_lock lock(mutex_);
    paths_.insert(path);
  }
  void drop(const fs::path& path) {
    const std::scoped_lock lock(mutex_);
    paths_.erase(path);
  }
  std::set<fs::path> takeAll() {
    const std::scoped_lock lock(mutex_);
    return std::exchange(paths_, {});
  }

 private:
  std::mutex mutex_;
  std::set<fs::path> paths_;
};

Owned& owned() {
  static Owned all;
  return all;
}

/// True for a name START PROCESS [-MORE] [END] of a process of this machine that runs no more.
bool leftBehind(const std::string& name, std::string_view start) {
  if (!name.starts_with(start)) return false;
  const auto rest = std::string_view(name).substr(start.size());
  const auto second = rest.find('-', rest.find('-') + 1);
  const auto process = fromShortText(rest.substr(0, second));
  return process && lifeOf(*process) == Life::gone;
}

void removeStale(const fs::path& folder, std::string_view start) {
  std::error_code ec;
  fs::directory_iterator at(folder, ec);
  while (!ec && at != fs::directory_iterator()) {
    const auto path = at->path();
    at.increment(ec);
    std::error_code ignored;
    if (leftBehind(path.filename().string(), start)) fs::remove_all(path, ignored);
  }
}

}  // namespace

fs::path partBeside(const fs::path& target) {
  static std::atomic<std::uint64_t> count{0};
  removeStaleParts(target.parent_path());
  auto part = target.parent_path() / (kPartStart + shortText(thisProcess()) + "-" + std::to_string(++count) + kPartEnd);
  owned().add(part);
  return part;
}

void forgetPart(const fs::path& part) { owned().drop(part); }

void removeStaleParts(const fs::path& folder) { removeStale(folder.empty() ? fs::path(".") : folder, kPartStart); }

void removeOwnTemporaries() {
  std::error_code ec;
  for (const auto& path : owned().takeAll()) fs::remove_all(path, ec);
}

Result<ScratchFolder> ScratchFolder::make() {
  std::error_code ec;
  const char* asked = std::getenv("TMPDIR");
  const auto home = fs::temp_directory_path(ec);
  if (ec)
    return fail(ErrorKind::ioFailed,
                "The temporary folder " + std::string(asked ? asked : "/tmp") +
                    " is not there. Set TMPDIR to a folder that you may write to.",
                ec.message());
  removeStale(home, kScratchStart);
  auto pattern = (home / (kScratchStart + shortText(thisProcess()) + "-XXXXXX")).string();
  const char* made = ::mkdtemp(pattern.data());
  if (!made)
    return fail(ErrorKind::ioFailed,
                "Nothing can be written to the temporary folder " + home.string() +
                    ". Set TMPDIR to a folder that you may write to.",
                std::strerror(errno));
  ScratchFolder f;
  f.path_ = made;
  owned().add(f.path_);
  return f;
}

ScratchFolder::ScratchFolder(ScratchFolder&& other) noexcept : path_(std::exchange(other.path_, {})) {}

ScratchFolder::~ScratchFolder() {
  if (path_.empty()) return;
  std::error_code ec;
  fs::remove_all(path_, ec);
  owned().drop(path_);
}

}  // namespace ochron

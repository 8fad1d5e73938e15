#include "files/temporary.h"

#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <mutex>
#include <set>

#include "files/atomic_file.h"
#include "files/process_id.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kPartStart = ".orthochron-";
constexpr const char* kPartEnd = ".part";
constexpr const char* kListStart = ".orthochron-set-";
constexpr const char* kListHead = "orthochron set 1";
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

/// Puts in place what a killed process had written whole but not yet renamed. Its list goes last: whatever happens on
/// the way, the next run finds it again.
void completeSet(const fs::path& list) {
  std::ifstream in(list, std::ios::binary);
  std::string head;
  if (!std::getline(in, head, '\0') || head != kListHead) return;
  std::vector<std::string> names;
  for (std::string name; std::getline(in, name, '\0');) names.push_back(name);
  if (names.size() % 3 != 0 || names.empty()) return;
  std::error_code ec;
  for (std::size_t i = 0; i < names.size(); i += 3) {
    if (!fs::exists(names[i], ec)) continue;  // it is in place
    struct stat st {};
    if (::stat(names[i + 1].c_str(), &st) == 0) ::chmod(names[i].c_str(), st.st_mode & 07777);
    ::rename(names[i].c_str(), names[i + 1].c_str());
  }
  for (std::size_t i = 0; i < names.size(); i += 3)
    if (!names[i + 2].empty()) ::unlink(names[i + 2].c_str());
  ::unlink(list.c_str());
}

void completeStaleSets(const fs::path& folder) {
  std::error_code ec;
  std::vector<fs::path> lists;
  for (fs::directory_iterator at(folder, ec); !ec && at != fs::directory_iterator(); at.increment(ec))
    if (leftBehind(at->path().filename().string(), kListStart)) lists.push_back(at->path());
  for (const auto& list : lists) completeSet(list);
}

}  // namespace

Result<fs::path> listSet(const fs::path& folder, const std::vector<SetEntry>& entries) {
  static std::atomic<std::uint64_t> count{0};
  const auto list = folder / (kListStart + shortText(thisProcess()) + "-" + std::to_string(++count));
  std::string text = kListHead;
  text += '\0';
  for (const auto& e : entries)
    for (const auto* p : {&e.part, &e.target, &e.earlier}) text += p->string() + '\0';
  // A signal must not take it away while files are being put in place.
  if (FileOps::real().writeAndSync(list, text)) return list;
  ::unlink(list.c_str());
  return fail(ErrorKind::ioFailed, list.string() + " could not be written. Check the folder and the free space.",
              std::strerror(errno));
}

fs::path partBeside(const fs::path& target) {
  static std::atomic<std::uint64_t> count{0};
  removeStaleParts(target.parent_path());
  auto part = target.parent_path() / (kPartStart + shortText(thisProcess()) + "-" + std::to_string(++count) + kPartEnd);
  owned().add(part);
  return part;
}

void forgetPart(const fs::path& part) { owned().drop(part); }

void removeStaleParts(const fs::path& folder) {
  const auto here = folder.empty() ? fs::path(".") : folder;
  completeStaleSets(here);
  removeStale(here, kPartStart);
}

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

#include "files/outputs.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cstring>
#include <set>

#include "files/atomic_file.h"
#include "files/temporary.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

bool syncFile(const fs::path& file) {
  const int fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return false;
  const bool ok = ::fsync(fd) == 0;
  return ::close(fd) == 0 && ok;
}

void removePart(const fs::path& part) {
  if (part.empty()) return;
  ::unlink(part.c_str());
  forgetPart(part);
}

}  // namespace

Outputs::Outputs(Outputs&& other) noexcept
    : inputs_(std::move(other.inputs_)),
      madeFolders_(std::exchange(other.madeFolders_, {})),
      staged_(std::exchange(other.staged_, {})),
      lists_(std::exchange(other.lists_, {})),
      keepExisting_(other.keepExisting_),
      done_(other.done_) {}

Outputs::~Outputs() {
  if (!done_) clear();
}

bool Outputs::idOf(const fs::path& file, FileId& id) {
  struct stat st {};
  if (::stat(file.c_str(), &st) != 0) return false;
  id = {st.st_dev, st.st_ino};
  return true;
}

void Outputs::protect(const fs::path& input) {
  FileId id;
  if (idOf(input, id)) inputs_.push_back(id);
}

Result<fs::path> Outputs::checked(const fs::path& target) const {
  if (target.empty() || !target.has_filename())
    return fail(ErrorKind::badInput, "There is no name for the file to be written. Give one.");
  auto path = absolutePath(target);
  std::error_code ec;
  const auto status = fs::status(path, ec);
  if (fs::exists(status)) {
    if (!fs::is_regular_file(status))
      return fail(ErrorKind::badInput, target.string() + " is not an ordinary file. Choose another name.");
    FileId id;
    if (idOf(path, id) && std::find(inputs_.begin(), inputs_.end(), id) != inputs_.end())
      return fail(ErrorKind::refused, target.string() +
                                          " is a recording or file that is being read here; writing would destroy it. "
                                          "Choose another name or folder.");
    constexpr auto kAnyone = fs::perms::owner_write | fs::perms::group_write | fs::perms::others_write;
    if ((status.permissions() & kAnyone) == fs::perms::none || ::access(path.c_str(), W_OK) != 0)
      return fail(ErrorKind::ioFailed,
                  target.string() + " is write-protected. Choose another name, or allow writing to it first.");
    if (keepExisting_)
      return fail(ErrorKind::refused,
                  target.string() + " is there already and is kept. Choose another name or folder.");
    if (auto real = fs::canonical(path, ec); !ec) path = std::move(real);
  }
  const auto folder = fs::canonical(path.parent_path(), ec);
  if (!ec) path = folder / path.filename();
  if (std::any_of(staged_.begin(), staged_.end(), [&](const Staged& s) { return s.target == path; }))
    return fail(ErrorKind::badInput,
                target.string() + ": two outputs would have this name. Give them different names.");
  return path;
}

Result<void> Outputs::makeFolder(const fs::path& folder) {
  std::vector<fs::path> missing;
  std::error_code ec;
  for (auto f = folder; !f.empty() && !fs::exists(f, ec); f = f.parent_path()) {
    missing.push_back(f);
    if (f == f.parent_path()) break;
  }
  for (auto f = missing.rbegin(); f != missing.rend(); ++f) {
    fs::create_directory(*f, ec);
    if (ec)
      return fail(ErrorKind::ioFailed, folder.string() + " could not be made. Choose a folder that you may write to.",
                  ec.message());
    madeFolders_.push_back(*f);
  }
  if (!fs::is_directory(folder, ec))
    return fail(ErrorKind::badInput, folder.string() + " is not a folder. Choose another one.");
  if (::access(folder.c_str(), W_OK) != 0)
    return fail(ErrorKind::ioFailed, folder.string() + " may not be written to. Choose another folder.",
                std::strerror(errno));
  return {};
}

Result<void> Outputs::allows(const fs::path& target) const {
  const auto path = checked(target);
  if (!path) return tl::unexpected(path.error());
  return {};
}

Result<fs::path> Outputs::stage(const fs::path& target) {
  auto path = checked(target);
  if (!path) return path;
  if (auto ok = makeFolder(path->parent_path()); !ok) return tl::unexpected(ok.error());
  // The folder may have been made just now: only then are two ways to it the same.
  path = checked(*path);
  if (!path) return path;
  staged_.push_back({*path, partBeside(*path), {}, false});
  return staged_.back().part;
}

Result<void> Outputs::add(const fs::path& target, std::string_view content) {
  const auto part = stage(target);
  if (!part) return tl::unexpected(part.error());
  if (FileOps::real().writeAndSync(*part, content)) return {};
  return fail(ErrorKind::ioFailed, target.string() + " could not be written. Make room on the disk and try again.",
              std::strerror(errno));
}

std::vector<fs::path> Outputs::existing(const std::vector<fs::path>& targets) {
  std::vector<fs::path> out;
  std::error_code ec;
  std::copy_if(targets.begin(), targets.end(), std::back_inserter(out),
               [&](const auto& t) { return fs::exists(t, ec); });
  return out;
}

/// One file alone is put in place by one rename, which cannot be left half-done.
Result<void> Outputs::writeList() {
  if (staged_.size() < 2) return {};
  std::vector<SetEntry> entries;
  std::set<fs::path> folders;
  for (auto& s : staged_) {
    struct stat st {};
    if (::stat(s.target.c_str(), &st) == 0) s.earlier = partBeside(s.target);
    entries.push_back({s.part, s.target, s.earlier});
    folders.insert(s.target.parent_path());
  }
  for (const auto& folder : folders) {
    auto list = listSet(folder, entries);
    if (!list) return tl::unexpected(list.error());
    lists_.push_back(*list);
    syncFolder(folder);
  }
  return {};
}

void Outputs::removeLists() {
  for (const auto& list : lists_) removePart(list);
  lists_.clear();
}

bool Outputs::place(Staged& s) {
  struct stat st {};
  if (::stat(s.target.c_str(), &st) == 0) {
    ::chmod(s.part.c_str(), st.st_mode & 07777);
    const auto earlier = s.earlier.empty() ? partBeside(s.target) : std::exchange(s.earlier, {});
    // A second name, or where the file system knows none a copy, keeps what was there: at no moment is nothing there.
    std::error_code ec;
    if (::link(s.target.c_str(), earlier.c_str()) != 0 && !fs::copy_file(s.target, earlier, ec)) {
      forgetPart(earlier);
      return false;
    }
    // Not to be cleared away by a signal: it is needed until all is in place.
    forgetPart(earlier);
    s.earlier = earlier;
  }
  if (::rename(s.part.c_str(), s.target.c_str()) != 0) return false;
  forgetPart(s.part);
  s.part.clear();
  s.placed = true;
  return true;
}

void Outputs::takeBack() {
  removeLists();  // from here on it is not to be completed
  for (auto s = staged_.rbegin(); s != staged_.rend(); ++s) {
    std::error_code ec;
    if (!s->earlier.empty() && !fs::exists(s->earlier, ec)) {  // it was not its turn yet
      forgetPart(std::exchange(s->earlier, {}));
    } else if (!s->earlier.empty()) {
      ::rename(s->earlier.c_str(), s->target.c_str());
      ::unlink(s->earlier.c_str());  // rename() does nothing when both are names of one file
    } else if (s->placed) {
      ::unlink(s->target.c_str());
    }
  }
}

void Outputs::clear() {
  for (auto& s : staged_) removePart(s.part);
  std::error_code ec;
  for (auto f = madeFolders_.rbegin(); f != madeFolders_.rend(); ++f) fs::remove(*f, ec);  // only when empty
  staged_.clear();
  madeFolders_.clear();
}

Result<void> Outputs::commit() {
  const auto failed = [&](const fs::path& place) {
    const std::string why = std::strerror(errno);
    const fs::path target = place;  // NOLINT(performance-unnecessary-copy-initialization): its list is cleared
    takeBack();
    clear();
    done_ = true;
    return fail(ErrorKind::ioFailed,
                target.string() + " could not be written (" + why +
                    "). Check the folder and the free space; what was there before is unharmed.",
                why);
  };
  for (const auto& s : staged_) {
    FileId id;
    if (idOf(s.target, id) && std::find(inputs_.begin(), inputs_.end(), id) != inputs_.end()) {
      errno = EEXIST;
      return failed(s.target);
    }
    if (!syncFile(s.part)) return failed(s.target);
  }
  if (const auto list = writeList(); !list) return failed(staged_.front().target);
  for (auto& s : staged_)
    if (!place(s)) return failed(s.target);
  std::set<fs::path> folders;
  for (const auto& s : staged_) folders.insert(s.target.parent_path());
  for (const auto& f : folders) syncFolder(f);
  removeLists();
  for (const auto& s : staged_)
    if (!s.earlier.empty()) ::unlink(s.earlier.c_str());
  done_ = true;
  return {};
}

}  // namespace ochron

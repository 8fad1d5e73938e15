#include "files/folder_lock.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <charconv>
#include <cstring>
#include <ctime>
#include <sstream>

#include "files/atomic_file.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kLockFile = "open.lock";
constexpr std::size_t kLargestLock = 4096;

// One "name value" a line; the first line tells what it is.
std::string lockText(const LockHolder& h) {
  std::ostringstream out;
  out.imbue(std::locale::classic());
  out << "orthochron lock 1\nhost " << h.process.host << "\nboot " << h.process.boot << "\nprocess " << h.process.number
      << "\nstarted " << h.process.started << "\nsince " << h.since << "\n";
  return out.str();
}

template <class N>
void readNumber(const std::string& text, N& to) {
  std::from_chars(text.data(), text.data() + text.size(), to);
}

std::optional<LockHolder> readLock(const fs::path& folder) {
  const auto text = readWholeFile(folder / kLockFile, kLargestLock);
  if (!text) return std::nullopt;
  std::istringstream in(*text);
  std::string line;
  if (!std::getline(in, line) || !line.starts_with("orthochron lock")) return std::nullopt;
  LockHolder h;
  while (std::getline(in, line)) {
    const auto space = line.find(' ');
    if (space == std::string::npos) continue;
    const auto name = line.substr(0, space);
    const auto value = line.substr(space + 1);
    if (name == "host") h.process.host = value;
    if (name == "boot") h.process.boot = value;
    if (name == "process") readNumber(value, h.process.number);
    if (name == "started") readNumber(value, h.process.started);
    if (name == "since") readNumber(value, h.since);
  }
  if (h.process.host.empty() || h.process.number <= 0) return std::nullopt;
  return h;
}

}  // namespace

std::string LockHolder::described() const {
  const std::time_t when = since;
  std::tm local{};
  ::localtime_r(&when, &local);
  std::array<char, 32> text{};
  std::strftime(text.data(), text.size(), "%Y-%m-%d %H:%M", &local);
  return (process.host == thisProcess().host ? "another window on this machine" : "the machine " + process.host) +
         ", since " + text.data();
}

FolderLock::FolderLock(FolderLock&& other) noexcept
    : folder_(std::exchange(other.folder_, {})), mine_(std::move(other.mine_)), fd_(std::exchange(other.fd_, -1)) {}

FolderLock& FolderLock::operator=(FolderLock&& other) noexcept {
  if (this == &other) return *this;
  release();
  folder_ = std::exchange(other.folder_, {});
  mine_ = std::move(other.mine_);
  fd_ = std::exchange(other.fd_, -1);
  return *this;
}

namespace {

/// Whether the kernel knows of a process that has the lock file open as its own.
bool kernelLocked(const fs::path& file) {
  const int fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return false;
  const bool locked = ::flock(fd, LOCK_SH | LOCK_NB) != 0 && errno == EWOULDBLOCK;
  ::close(fd);
  return locked;
}

/// Whether a holder whose lock the kernel does not see may live nevertheless: on another machine, or a program of an
/// earlier version that held none.
bool livesUnlocked(const LockHolder& holder) {
  switch (lifeOf(holder.process)) {
    case Life::running: return true;
    case Life::gone: return false;
    case Life::unknown: return holder.process.boot != thisProcess().boot;  // else a container on this very kernel
  }
  return true;
}

Error notWritable(const fs::path& folder) {
  return {ErrorKind::ioFailed, folder.string() + " may not be written to. Choose another folder.",
          std::strerror(errno)};
}

}  // namespace

std::optional<LockHolder> FolderLock::holderOf(const fs::path& folder) {
  auto holder = readLock(folder);
  if (!holder || holder->process == thisProcess()) return std::nullopt;
  if (kernelLocked(folder / kLockFile) || livesUnlocked(*holder)) return holder;
  return std::nullopt;
}

Result<FolderLock> FolderLock::take(const fs::path& folder) {
  if (const auto holder = holderOf(folder))
    return fail(ErrorKind::refused, "\"" + folder.stem().string() + "\" is open in " + holder->described() + ".");
  FolderLock lock;
  lock.mine_ = {thisProcess(), std::time(nullptr)};
  const auto file = folder / kLockFile;
  const int fd = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
  if (fd < 0) return tl::unexpected(notWritable(folder));
  lock.fd_ = fd;
  // A folder on a file system without such locks is locked by its file alone.
  if (::flock(fd, LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK) {
    const auto now = readLock(folder);
    if (!now || now->process != thisProcess())
      return fail(ErrorKind::refused, "\"" + folder.stem().string() + "\" was just opened in another window.");
  }
  const auto text = lockText(lock.mine_);
  if (::ftruncate(fd, 0) != 0 || ::pwrite(fd, text.data(), text.size(), 0) != static_cast<ssize_t>(text.size()))
    return tl::unexpected(notWritable(folder));
  lock.folder_ = folder;
  return lock;
}

Result<FolderLock> FolderLock::takeOver(const fs::path& folder) {
  FolderLock lock;
  lock.mine_ = {thisProcess(), std::time(nullptr)};
  // Another file in its place: who held the earlier one sees that it is not theirs any more.
  if (auto ok = writeAtomically(folder / kLockFile, lockText(lock.mine_)); !ok) return tl::unexpected(ok.error());
  lock.fd_ = ::open((folder / kLockFile).c_str(), O_RDWR | O_CLOEXEC);
  if (lock.fd_ >= 0) ::flock(lock.fd_, LOCK_EX | LOCK_NB);
  lock.folder_ = folder;
  return lock;
}

bool FolderLock::held() const {
  if (folder_.empty()) return false;
  const auto now = readLock(folder_);
  return now && now->process == mine_.process;
}

void FolderLock::release() {
  if (held()) {
    std::error_code ec;
    fs::remove(folder_ / kLockFile, ec);
  }
  if (fd_ >= 0) ::close(std::exchange(fd_, -1));
  folder_.clear();
}

}  // namespace ochron

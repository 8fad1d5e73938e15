#include "files/folder_lock.h"

#include <array>
#include <charconv>
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
    : folder_(std::exchange(other.folder_, {})), mine_(std::move(other.mine_)) {}

FolderLock& FolderLock::operator=(FolderLock&& other) noexcept {
  if (this == &other) return *this;
  release();
  folder_ = std::exchange(other.folder_, {});
  mine_ = std::move(other.mine_);
  return *this;
}

std::optional<LockHolder> FolderLock::holderOf(const fs::path& folder) {
  auto holder = readLock(folder);
  if (!holder || holder->process == thisProcess() || lifeOf(holder->process) == Life::gone) return std::nullopt;
  return holder;
}

Result<FolderLock> FolderLock::take(const fs::path& folder) {
  FolderLock lock;
  lock.mine_ = {thisProcess(), std::time(nullptr)};
  if (auto ok = writeAtomically(folder / kLockFile, lockText(lock.mine_)); !ok) return tl::unexpected(ok.error());
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
  folder_.clear();
}

}  // namespace ochron

#include "media/mapped_file.h"

#include <fcntl.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cstdint>
#include <cstring>
#include <mutex>

namespace ochron {
namespace {

constexpr int kMostGuards = 32'768;

/// Ranges in which a bus error means that a mapped file became shorter. Read by the signal handler.
struct Guard {
  std::atomic<std::uintptr_t> begin{0};
  std::atomic<std::uintptr_t> end{0};
  std::atomic<bool> used{false};
  std::atomic<bool> broken{false};
};
std::array<Guard, kMostGuards> guards;
struct sigaction earlierAction;

void onBusError(int signal, siginfo_t* info, void* context) {
  const auto at = reinterpret_cast<std::uintptr_t>(info->si_addr);
  const auto page = static_cast<std::uintptr_t>(::sysconf(_SC_PAGESIZE));
  for (auto& g : guards) {
    if (at < g.begin.load() || at >= g.end.load()) continue;
    g.broken.store(true);
    void* start = reinterpret_cast<void*>(at & ~(page - 1));  // NOLINT(performance-no-int-to-ptr)
    if (::mmap(start, page, PROT_READ, MAP_PRIVATE | MAP_ANONYMOUS | MAP_FIXED, -1, 0) == start) return;
  }
  if (earlierAction.sa_flags & SA_SIGINFO) return earlierAction.sa_sigaction(signal, info, context);
  ::sigaction(signal, &earlierAction, nullptr);  // the same access comes again and ends the program as before
}

void watchBusErrors() {
  static std::once_flag once;
  std::call_once(once, [] {
    struct sigaction action {};
    action.sa_sigaction = onBusError;
    action.sa_flags = SA_SIGINFO | SA_NODEFER;
    sigemptyset(&action.sa_mask);
    ::sigaction(SIGBUS, &action, &earlierAction);
  });
}

/// Index of a guard; -1 when all are taken.
int guardFor(void* at, std::size_t size) {
  for (int i = 0; i < kMostGuards; ++i) {
    auto& g = guards[static_cast<std::size_t>(i)];
    if (g.used.exchange(true)) continue;
    g.broken = false;
    g.end = reinterpret_cast<std::uintptr_t>(at) + size;
    g.begin = reinterpret_cast<std::uintptr_t>(at);
    return i;
  }
  return -1;
}

}  // namespace

/// Which file was mapped, and when it was last written to.
struct MappedFile::Stamp {
  std::filesystem::path file;
  dev_t device = 0;
  ino_t inode = 0;
  off_t size = 0;
  timespec written{};
  timespec changed{};
};

namespace {
bool same(timespec a, timespec b) { return a.tv_sec == b.tv_sec && a.tv_nsec == b.tv_nsec; }
}  // namespace

MappedFile::MappedFile(void* at, std::size_t size, std::unique_ptr<const Stamp> stamp)
    : at_(at), size_(size), guard_(guardFor(at, size)), stamp_(std::move(stamp)) {}

MappedFile::~MappedFile() {
  if (guard_ >= 0) {
    auto& g = guards[static_cast<std::size_t>(guard_)];
    g.begin = 0;
    g.end = 0;
    g.used = false;
  }
  ::munmap(at_, size_);
  if (fd_ >= 0) ::close(fd_);
}

bool MappedFile::broken() const { return guard_ >= 0 && guards[static_cast<std::size_t>(guard_)].broken.load(); }

bool MappedFile::writtenTo() const {
  struct stat st {};
  const auto otherBytes = [&] { return st.st_size != stamp_->size || !same(st.st_mtim, stamp_->written); };
  if (fd_ >= 0 && ::fstat(fd_, &st) == 0 && otherBytes()) return true;
  if (::stat(stamp_->file.c_str(), &st) != 0) return false;
  if (st.st_dev != stamp_->device || st.st_ino != stamp_->inode) return fd_ >= 0;
  return otherBytes();
}

bool MappedFile::touched() const {
  struct stat st {};
  const bool there = fd_ >= 0 ? ::fstat(fd_, &st) == 0 : ::stat(stamp_->file.c_str(), &st) == 0;
  return there && (st.st_ino != stamp_->inode || st.st_size != stamp_->size || !same(st.st_ctim, stamp_->changed));
}

const std::filesystem::path& MappedFile::path() const { return stamp_->file; }

Result<std::unique_ptr<MappedFile>> MappedFile::open(const std::filesystem::path& file, Watch watch) {
  watchBusErrors();
  const int fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return fail(ErrorKind::notFound, file.string() + ": there is no such file.", std::strerror(errno));
  struct stat st {};
  void* at = MAP_FAILED;
  if (::fstat(fd, &st) == 0 && S_ISREG(st.st_mode) && st.st_size > 0)
    at = ::mmap(nullptr, static_cast<std::size_t>(st.st_size), PROT_READ, MAP_SHARED, fd, 0);
  if (at == MAP_FAILED || watch == Watch::no) ::close(fd);
  if (at == MAP_FAILED) return fail(ErrorKind::ioFailed, file.string() + " could not be read into memory.");
  auto stamp = std::make_unique<const Stamp>(Stamp{file, st.st_dev, st.st_ino, st.st_size, st.st_mtim, st.st_ctim});
  std::unique_ptr<MappedFile> map(new MappedFile(at, static_cast<std::size_t>(st.st_size), std::move(stamp)));
  if (watch == Watch::yes) map->fd_ = fd;
  return map;
}

}  // namespace ochron

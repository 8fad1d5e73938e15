// Preloaded into a process: ends it at the n-th call that changes the disk, or lets the disk be full from there on.
//   OCHRON_STOP_AT   n, counted from 1
//   OCHRON_STOP_HOW  "kill" or "full"
//   OCHRON_STOP_IN   only calls on files below this folder count
// A process that was stopped says "stopped" on the standard error that it began with.
#include <dlfcn.h>
#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <signal.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/types.h>
#include <sys/uio.h>
#include <unistd.h>

#include <atomic>

namespace {

std::atomic<long> calls{0};

/// Standard error as the process began with: what decoders print is sent nowhere for a while, and a call on another
/// thread may be stopped just then.
int teller = STDERR_FILENO;

__attribute__((constructor)) void keepStandardError() {
  const int kept = fcntl(STDERR_FILENO, F_DUPFD_CLOEXEC, 100);
  if (kept >= 0) teller = kept;
}

void tell() { dprintf(teller, "stopped\n"); }

bool below(const char* path) {
  const char* folder = getenv("OCHRON_STOP_IN");
  return folder && path && strncmp(path, folder, strlen(folder)) == 0;
}

bool below(int fd) {
  char link[64];
  char path[PATH_MAX];
  snprintf(link, sizeof link, "/proc/self/fd/%d", fd);
  const auto n = readlink(link, path, sizeof path - 1);
  if (n <= 0) return false;
  path[n] = 0;
  return below(path);
}

/// True when the call must fail because the disk is full.
bool stops(bool counts, bool takesSpace) {
  if (!counts) return false;
  const char* at = getenv("OCHRON_STOP_AT");
  const long n = ++calls;
  if (!at || n < atol(at)) return false;
  const char* how = getenv("OCHRON_STOP_HOW");
  if (how && strcmp(how, "full") == 0) {
    if (!takesSpace) return false;
    static std::atomic<bool> told{false};
    if (!told.exchange(true)) tell();
    errno = ENOSPC;
    return true;
  }
  tell();
  kill(getpid(), SIGKILL);
  for (;;) pause();
}

template <class F>
F real(const char* name) {
  return reinterpret_cast<F>(dlsym(RTLD_NEXT, name));
}

}  // namespace

extern "C" {

ssize_t write(int fd, const void* data, size_t size) {
  static const auto next = real<ssize_t (*)(int, const void*, size_t)>("write");
  return stops(below(fd), true) ? -1 : next(fd, data, size);
}
ssize_t pwrite(int fd, const void* data, size_t size, off_t at) {
  static const auto next = real<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite");
  return stops(below(fd), true) ? -1 : next(fd, data, size, at);
}
ssize_t pwrite64(int fd, const void* data, size_t size, off64_t at) {
  static const auto next = real<ssize_t (*)(int, const void*, size_t, off64_t)>("pwrite64");
  return stops(below(fd), true) ? -1 : next(fd, data, size, at);
}
ssize_t writev(int fd, const struct iovec* parts, int count) {
  static const auto next = real<ssize_t (*)(int, const struct iovec*, int)>("writev");
  return stops(below(fd), true) ? -1 : next(fd, parts, count);
}
int fsync(int fd) {
  static const auto next = real<int (*)(int)>("fsync");
  return stops(below(fd), true) ? -1 : next(fd);
}
int fdatasync(int fd) {
  static const auto next = real<int (*)(int)>("fdatasync");
  return stops(below(fd), true) ? -1 : next(fd);
}
int rename(const char* from, const char* to) {
  static const auto next = real<int (*)(const char*, const char*)>("rename");
  return stops(below(to), false) ? -1 : next(from, to);
}
int link(const char* from, const char* to) {
  static const auto next = real<int (*)(const char*, const char*)>("link");
  return stops(below(to), true) ? -1 : next(from, to);
}
int unlink(const char* path) {
  static const auto next = real<int (*)(const char*)>("unlink");
  return stops(below(path), false) ? -1 : next(path);
}
int remove(const char* path) {
  static const auto next = real<int (*)(const char*)>("remove");
  return stops(below(path), false) ? -1 : next(path);
}
}

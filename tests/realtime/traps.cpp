// Replaces the C library's allocation and locking functions of this test program by ones that abort inside a trap.

#include "realtime/traps.h"

#include <dlfcn.h>
#include <pthread.h>
#include <unistd.h>

#include <cstddef>
#include <cstdlib>
#include <cstring>

namespace {

thread_local int trapped = 0;

void refuse(const char* what) {
  if (trapped == 0) return;
  trapped = 0;
  const char* text = " on the audio thread\n";
  if (::write(2, what, std::strlen(what)) < 0 || ::write(2, text, std::strlen(text)) < 0) std::abort();
  std::abort();
}

}  // namespace

extern "C" {
// NOLINTBEGIN(bugprone-reserved-identifier): the C library's own
void* __libc_malloc(std::size_t);
void* __libc_calloc(std::size_t, std::size_t);
void* __libc_realloc(void*, std::size_t);
void* __libc_memalign(std::size_t, std::size_t);
void __libc_free(void*);
// NOLINTEND(bugprone-reserved-identifier)

void* malloc(std::size_t n) { return refuse("malloc"), __libc_malloc(n); }
void* calloc(std::size_t n, std::size_t size) { return refuse("calloc"), __libc_calloc(n, size); }
void* realloc(void* p, std::size_t n) { return refuse("realloc"), __libc_realloc(p, n); }
void* aligned_alloc(std::size_t a, std::size_t n) { return refuse("aligned_alloc"), __libc_memalign(a, n); }
void free(void* p) {
  if (p) refuse("free");
  __libc_free(p);
}

int pthread_mutex_lock(pthread_mutex_t* m) {
  refuse("pthread_mutex_lock");
  using Lock = int (*)(pthread_mutex_t*);
  static const Lock real = reinterpret_cast<Lock>(::dlsym(RTLD_NEXT, "pthread_mutex_lock"));
  return real(m);
}
}

namespace ochron::test {
NoAllocationNoLock::NoAllocationNoLock() { ++trapped; }
NoAllocationNoLock::~NoAllocationNoLock() { --trapped; }
}  // namespace ochron::test

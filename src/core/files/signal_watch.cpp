#include "files/signal_watch.h"

#include <pthread.h>
#include <signal.h>

#include "files/temporary.h"

namespace ochron {
namespace {

constexpr int kEndOfWatch = SIGUSR2;

sigset_t watched() {
  sigset_t set;
  sigemptyset(&set);
  for (const int s : {SIGINT, SIGTERM, SIGHUP, kEndOfWatch}) sigaddset(&set, s);
  return set;
}

void endBy(int signal) {
  removeOwnTemporaries();
  ::signal(signal, SIG_DFL);
  sigset_t just;
  sigemptyset(&just);
  sigaddset(&just, signal);
  pthread_sigmask(SIG_UNBLOCK, &just, nullptr);
  ::raise(signal);
}

}  // namespace

SignalWatch::SignalWatch(std::function<void()> last) {
  const auto set = watched();
  pthread_sigmask(SIG_BLOCK, &set, nullptr);
  thread_ = std::thread([set, last = std::move(last)] {
    for (;;) {
      int signal = 0;
      if (sigwait(&set, &signal) != 0) continue;
      if (signal == kEndOfWatch) return;
      if (last) last();
      endBy(signal);
    }
  });
}

SignalWatch::~SignalWatch() {
  pthread_kill(thread_.native_handle(), kEndOfWatch);
  thread_.join();
}

}  // namespace ochron

#include "document/workers.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace ochron {
namespace {
// What computes gives way to what draws and, where there are no real-time rights, to what plays.
constexpr int kComputingNice = 4;
constexpr int kBackgroundNice = 10;
constexpr unsigned kLeast = 3;  // a long job never holds up a short one
constexpr unsigned kMost = 16;
}  // namespace

unsigned Workers::forAllCores() { return std::clamp(std::thread::hardware_concurrency(), kLeast, kMost); }

Workers::Workers(unsigned threads, Priority priority) {
  for (unsigned i = 0; i < threads; ++i) threads_.emplace_back([this, priority] { run(priority); });
}

Workers::~Workers() {
  {
    const std::lock_guard lock(mutex_);
    over_ = true;
  }
  more_.notify_all();
  for (auto& t : threads_) t.join();
}

void Workers::give(std::function<void()> work) {
  {
    const std::lock_guard lock(mutex_);
    waiting_.push_back(std::move(work));
  }
  more_.notify_one();
}

void Workers::run(Priority priority) {
  const int nice = priority == Priority::background ? kBackgroundNice : kComputingNice;
  setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), nice);
  for (;;) {
    std::function<void()> work;
    {
      std::unique_lock lock(mutex_);
      more_.wait(lock, [this] { return over_ || !waiting_.empty(); });
      if (waiting_.empty()) return;
      work = std::move(waiting_.front());
      waiting_.pop_front();
    }
    work();
  }
}

}  // namespace ochron

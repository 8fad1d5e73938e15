#pragma once

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>
#include <vector>

namespace ochron {

/// Threads that work through what they are given, in order, at a lower priority than sound and the hand on the
/// controls. Standard threads and locks throughout, so that the thread sanitizer sees every hand-over.
class Workers {
 public:
  Workers();
  /// Works through what is left.
  ~Workers();
  Workers(const Workers&) = delete;
  Workers& operator=(const Workers&) = delete;

  void give(std::function<void()> work);

 private:
  void run();

  std::mutex mutex_;
  std::condition_variable more_;
  std::deque<std::function<void()>> waiting_;
  bool over_ = false;
  std::vector<std::thread> threads_;
};

}  // namespace ochron

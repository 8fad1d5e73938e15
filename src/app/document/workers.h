#pragma once

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>
#include <vector>

namespace ochron {

/// Threads that work through what they are given, in order. Standard threads and locks throughout, so that the thread
/// sanitizer sees every hand-over.
class Workers {
 public:
  /// What nobody waits for runs below all other programs.
  enum class Priority { normal, background };
  Workers(unsigned threads, Priority priority);
  /// As many as this machine has cores, within reason.
  static unsigned forAllCores();
  /// Works through what is left.
  ~Workers();
  Workers(const Workers&) = delete;
  Workers& operator=(const Workers&) = delete;

  void give(std::function<void()> work);

 private:
  void run(Priority priority);

  std::mutex mutex_;
  std::condition_variable more_;
  std::deque<std::function<void()>> waiting_;
  bool over_ = false;
  std::vector<std::thread> threads_;
};

}  // namespace ochron

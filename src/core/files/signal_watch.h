#pragma once

#include <functional>
#include <thread>

namespace ochron {

/// Waits for the signals that end a program (interrupt, terminate, hang-up) on a thread of its own, clears away what
/// the run has not finished, and ends it as the signal would have. Make one at the start of main(), before any other
/// thread: threads made later do not take these signals.
class SignalWatch {
 public:
  /// `last`: done on the watch's thread before the run ends.
  explicit SignalWatch(std::function<void()> last = {});
  /// Joins the thread.
  ~SignalWatch();
  SignalWatch(const SignalWatch&) = delete;

 private:
  std::thread thread_;
};

}  // namespace ochron

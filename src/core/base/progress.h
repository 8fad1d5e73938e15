#pragma once

#include <atomic>
#include <memory>

#include "base/result.h"

namespace ochron {

/// Shared between a long computation and whoever watches it. Any thread.
class Progress {
 public:
  /// Fraction done, 0 to 1.
  void report(double fraction) { fraction_.store(fraction, std::memory_order_relaxed); }
  double fraction() const { return fraction_.load(std::memory_order_relaxed); }
  void cancel() { cancelled_.store(true, std::memory_order_relaxed); }
  bool cancelled() const { return cancelled_.load(std::memory_order_relaxed); }

 private:
  std::atomic<double> fraction_{0.0};
  std::atomic<bool> cancelled_{false};
};

inline tl::unexpected<Error> cancelledError() { return fail(ErrorKind::cancelled, "Cancelled."); }

}  // namespace ochron

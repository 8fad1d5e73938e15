#pragma once

#include <atomic>
#include <cstddef>
#include <memory>

#include "base/result.h"

namespace ochron {

/// Shared between a long computation and whoever watches it. Any thread.
class Progress {
 public:
  /// Fraction done, 0 to 1, of the part under way.
  void report(double fraction) {
    const double from = from_.load(std::memory_order_relaxed);
    fraction_.store(from + (to_.load(std::memory_order_relaxed) - from) * fraction, std::memory_order_relaxed);
  }
  /// What is reported from now on is one of `count` like parts. By the computation itself.
  void beginPart(std::size_t index, std::size_t count) {
    from_.store(static_cast<double>(index) / static_cast<double>(count), std::memory_order_relaxed);
    to_.store(static_cast<double>(index + 1) / static_cast<double>(count), std::memory_order_relaxed);
    report(0);
  }
  double fraction() const { return fraction_.load(std::memory_order_relaxed); }
  void cancel() { cancelled_.store(true, std::memory_order_relaxed); }
  bool cancelled() const { return cancelled_.load(std::memory_order_relaxed); }

 private:
  std::atomic<double> fraction_{0.0};
  std::atomic<double> from_{0.0};
  std::atomic<double> to_{1.0};
  std::atomic<bool> cancelled_{false};
};

inline tl::unexpected<Error> cancelledError() { return fail(ErrorKind::cancelled, "Cancelled."); }

}  // namespace ochron

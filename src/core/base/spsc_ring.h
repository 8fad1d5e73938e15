#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <utility>

namespace ochron {

/// Single-producer single-consumer queue of fixed size. push and pop never wait, allocate or lock.
template <class T, std::size_t Capacity>
class SpscRing {
 public:
  /// False when full; the value is left with the caller.
  bool tryPush(T& value) noexcept {
    const auto head = head_.load(std::memory_order_relaxed);
    if (head - tail_.load(std::memory_order_acquire) == Capacity) return false;
    slots_[head % Capacity] = std::move(value);
    head_.store(head + 1, std::memory_order_release);
    return true;
  }
  /// False when empty.
  bool tryPop(T& value) noexcept {
    const auto tail = tail_.load(std::memory_order_relaxed);
    if (tail == head_.load(std::memory_order_acquire)) return false;
    value = std::move(slots_[tail % Capacity]);
    tail_.store(tail + 1, std::memory_order_release);
    return true;
  }

 private:
  std::array<T, Capacity> slots_{};
  alignas(64) std::atomic<std::size_t> head_{0};
  alignas(64) std::atomic<std::size_t> tail_{0};
};

}  // namespace ochron

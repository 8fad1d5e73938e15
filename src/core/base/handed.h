#pragma once

#include <algorithm>
#include <atomic>
#include <memory>
#include <vector>

namespace ochron {

/// A value that a controlling thread replaces while one other thread uses it, which never waits, allocates or frees.
/// What is not used any more is freed by the controlling thread (one hazard pointer: Michael, "Hazard Pointers: Safe
/// Memory Reclamation for Lock-Free Objects", 2004).
template <class T>
class Handed {
 public:
  /// Controlling thread. Null: there is none.
  void give(std::unique_ptr<const T> value) {
    now_.store(value.get());
    if (value) alive_.push_back(std::move(value));
    collect();
  }
  /// Controlling thread: what is neither given nor in use any more goes.
  void collect() {
    const auto* now = now_.load();
    const auto* used = used_.load();
    std::erase_if(alive_, [&](const auto& v) { return v.get() != now && v.get() != used; });
  }
  std::size_t alive() const { return alive_.size(); }
  /// Any thread: whether there is one.
  bool any() const noexcept { return now_.load(std::memory_order_relaxed) != nullptr; }

  /// The other thread: what was given last; it stays until the next use or leave().
  const T* use() noexcept {
    const T* value = now_.load();
    for (;;) {
      used_.store(value);
      const T* again = now_.load();
      if (again == value) return value;
      value = again;
    }
  }
  void leave() noexcept { used_.store(nullptr); }

 private:
  std::atomic<const T*> now_{nullptr};
  std::atomic<const T*> used_{nullptr};
  std::vector<std::unique_ptr<const T>> alive_;
};

}  // namespace ochron

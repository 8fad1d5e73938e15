#pragma once

#include <atomic>
#include <cstddef>
#include <memory>
#include <vector>

#include "base/spsc_ring.h"
#include "play/play_plan.h"

namespace ochron {

/// Plans on their way from the controlling thread to the audio thread, and back once they are not heard any more. Each
/// giving stands for itself, also of a plan that was given before. The audio thread never waits, allocates or frees.
class PlanFeed {
 public:
  /// One giving of a plan.
  class Given {
   public:
    explicit Given(std::shared_ptr<const PlayPlan> plan) : plan_(std::move(plan)) {}
    const PlayPlan& plan() const { return *plan_; }

   private:
    friend class PlanFeed;
    std::shared_ptr<const PlayPlan> plan_;
    int users_ = 0;                  // audio thread
    std::atomic<bool> done_{false};  // the audio thread does not touch it any more
  };

  /// Controlling thread. False when earlier ones were not taken yet; try again.
  bool give(std::shared_ptr<const PlayPlan> plan);
  /// Controlling thread: frees what is done with.
  void collect();
  /// Controlling thread: givings that are not freed.
  std::size_t alive() const { return alive_.size(); }

  /// Audio thread: the newest that was given and is not taken yet; null when there is none. It stays so.
  const Given* next() noexcept;
  /// Audio thread: the newest that was given, used once; null when there is none. Older ones are done with.
  Given* take() noexcept;
  static void use(Given* given) noexcept;
  /// Audio thread: used once less. The last one ends it.
  static void leave(Given* given) noexcept;

 private:
  Given* pending_ = nullptr;  // audio thread
  SpscRing<Given*, 16> incoming_;
  std::vector<std::unique_ptr<Given>> alive_;
};

}  // namespace ochron

#include "play/plan_feed.h"

namespace ochron {

bool PlanFeed::give(std::shared_ptr<const PlayPlan> plan) {
  alive_.push_back(std::make_unique<Given>(std::move(plan)));
  Given* raw = alive_.back().get();
  if (incoming_.tryPush(raw)) return true;
  alive_.pop_back();
  return false;
}

void PlanFeed::collect() {
  std::erase_if(alive_, [](const auto& g) { return g->done_.load(std::memory_order_acquire); });
}

PlanFeed::Given* PlanFeed::take() noexcept {
  Given* newest = nullptr;
  Given* next = nullptr;
  while (incoming_.tryPop(next)) {
    if (newest) newest->done_.store(true, std::memory_order_release);
    newest = next;
  }
  if (newest) newest->users_ = 1;
  return newest;
}

void PlanFeed::use(Given* given) noexcept {
  if (given) ++given->users_;
}

void PlanFeed::leave(Given* given) noexcept {
  if (given && --given->users_ == 0) given->done_.store(true, std::memory_order_release);
}

}  // namespace ochron

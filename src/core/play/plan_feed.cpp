#include "play/plan_feed.h"

#include <utility>

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

const PlanFeed::Given* PlanFeed::next() noexcept {
  Given* fresh = nullptr;
  while (incoming_.tryPop(fresh)) {
    if (pending_) pending_->done_.store(true, std::memory_order_release);
    pending_ = fresh;
  }
  return pending_;
}

PlanFeed::Given* PlanFeed::take() noexcept {
  next();
  if (pending_) pending_->users_ = 1;
  return std::exchange(pending_, nullptr);
}

void PlanFeed::use(Given* given) noexcept {
  if (given) ++given->users_;
}

void PlanFeed::leave(Given* given) noexcept {
  if (given && --given->users_ == 0) given->done_.store(true, std::memory_order_release);
}

}  // namespace ochron

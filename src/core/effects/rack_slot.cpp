#include "effects/rack_slot.h"

#include <algorithm>

namespace ochron {
namespace {
constexpr double kFadeSeconds = 0.008;
}

void DelayLine::run(ChannelSpans sides) noexcept {
  if (by_ == 0) return;
  const auto n = sides.front().size();
  for (std::size_t c = 0; c < sides.size(); ++c) {
    auto at = at_;
    for (auto& v : sides[c]) {
      std::swap(v, kept_[c][at]);
      if (++at == by_) at = 0;
    }
  }
  at_ = (at_ + n) % by_;
}

void DelayLine::clear() noexcept {
  for (auto& side : kept_) std::fill(side.begin(), side.end(), 0.0F);
}

RackSlot::RackSlot(std::shared_ptr<Effect> effect, int rate, bool on, Begin begin)
    : effect_(std::move(effect)),
      on_(on),
      dry_(effect_->latency()),
      step_(static_cast<float>(1 / (kFadeSeconds * rate))),
      share_(begin == Begin::atOnce && on ? 1.0F : 0.0F) {}

void RackSlot::follow(ControlCourse course) {
  course_.give(course ? std::make_unique<const ControlCourse>(std::move(course)) : nullptr);
}

void RackSlot::ask(ChannelSpans sides, std::span<const float> key, Frames place) noexcept {
  if (const auto* course = course_.use()) (*course)(*effect_, place);
  course_.leave();
  asked_ = effect_->ask(sides, key);
  std::array<std::span<float>, 2> past;
  for (std::size_t c = 0; c < sides.size(); ++c) {
    past[c] = std::span(past_[c]).first(sides[c].size());
    std::copy(sides[c].begin(), sides[c].end(), past[c].begin());
  }
  dry_.run(std::span(past).first(sides.size()));
}

void RackSlot::answer(ChannelSpans sides, Effect::Clock::time_point latest) noexcept {
  if (!asked_ || !effect_->answer(sides, latest)) {
    if (asked_) missed_.fetch_add(1, std::memory_order_relaxed);
    share_ = 0;
    for (std::size_t c = 0; c < sides.size(); ++c) std::copy_n(past_[c].begin(), sides[c].size(), sides[c].begin());
    return;
  }
  const float goal = on() ? 1.0F : 0.0F;
  if (share_ == 1.0F && goal == 1.0F) return;
  float share = share_;
  for (std::size_t c = 0; c < sides.size(); ++c) {
    share = share_;
    for (std::size_t i = 0; i < sides[c].size(); ++i) {
      share = goal > share ? std::min(goal, share + step_) : std::max(goal, share - step_);
      sides[c][i] = past_[c][i] + (sides[c][i] - past_[c][i]) * share;
    }
  }
  share_ = share;
}

}  // namespace ochron

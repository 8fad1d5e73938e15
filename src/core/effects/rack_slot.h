#pragma once

#include <array>
#include <atomic>
#include <memory>
#include <vector>

#include "effects/effect.h"

namespace ochron {

/// Sound that comes out so many frames later.
class DelayLine {
 public:
  explicit DelayLine(Frames by = {}) : by_(static_cast<std::size_t>(by.value)) {
    for (auto& side : kept_) side.assign(by_, 0.0F);
  }
  Frames by() const { return Frames{static_cast<std::int64_t>(by_)}; }
  /// In place; one side or two.
  void run(ChannelSpans sides) noexcept;
  /// What is on its way is forgotten.
  void clear() noexcept;

 private:
  std::size_t by_;
  std::size_t at_ = 0;
  std::array<std::vector<float>, 2> kept_;
};

/// An effect in its place: heard or passed by without a click, and passed by at the same delay where it does not play.
class RackSlot {
 public:
  RackSlot(std::shared_ptr<Effect> effect, int rate, bool on);

  Effect& effect() { return *effect_; }
  /// Any thread.
  void setOn(bool on) { on_.store(on, std::memory_order_relaxed); }
  bool on() const { return on_.load(std::memory_order_relaxed); }
  Frames latency() const { return dry_.by(); }
  /// Blocks that the effect did not answer in time; any thread.
  std::int64_t missed() const { return missed_.load(std::memory_order_relaxed); }

  // The thread that plays; at most Effect::kMostFrames at a time.
  void ask(ChannelSpans sides, std::span<const float> key) noexcept;
  void answer(ChannelSpans sides, Effect::Clock::time_point latest) noexcept;
  void clear() noexcept { dry_.clear(); }

 private:
  std::shared_ptr<Effect> effect_;
  std::atomic<bool> on_;
  DelayLine dry_;
  const float step_;  // of its share, a frame
  float share_ = 0;
  bool asked_ = false;
  std::array<std::array<float, Effect::kMostFrames>, 2> past_{};
  std::atomic<std::int64_t> missed_{0};
};

}  // namespace ochron

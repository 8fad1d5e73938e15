#pragma once

#include <array>
#include <atomic>
#include <functional>
#include <memory>
#include <vector>

#include "base/handed.h"
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

/// Sets an effect's controls to what they are at a place of the song. Called by the thread that plays: allocates
/// nothing, locks nothing.
using ControlCourse = std::function<void(Effect&, Frames place)>;

/// An effect in its place: heard or passed by without a click, and passed by at the same delay where it does not play.
class RackSlot {
 public:
  /// How its first block is heard: faded in, beside what plays already, or as all that follow.
  enum class Begin { fadedIn, atOnce };
  RackSlot(std::shared_ptr<Effect> effect, int rate, bool on, Begin begin = Begin::fadedIn);

  Effect& effect() { return *effect_; }
  /// Any thread.
  void setOn(bool on) { on_.store(on, std::memory_order_relaxed); }
  bool on() const { return on_.load(std::memory_order_relaxed); }
  /// What moves its controls from now on; none: they hold still. The controlling thread.
  void follow(ControlCourse course);
  /// Whether any moves.
  bool moves() const noexcept { return course_.any(); }
  Frames latency() const { return dry_.by(); }
  /// Blocks that the effect did not answer in time; any thread.
  std::int64_t missed() const { return missed_.load(std::memory_order_relaxed); }

  // The thread that plays; at most Effect::kMostFrames at a time.
  /// `place`: of the song, for the controls that move along it.
  void ask(ChannelSpans sides, std::span<const float> key, Frames place) noexcept;
  void answer(ChannelSpans sides, Effect::Clock::time_point latest) noexcept;
  void clear() noexcept { dry_.clear(); }

 private:
  std::shared_ptr<Effect> effect_;
  std::atomic<bool> on_;
  Handed<ControlCourse> course_;
  DelayLine dry_;
  const float step_;  // of its share, a frame
  float share_;
  bool asked_ = false;
  std::array<std::array<float, Effect::kMostFrames>, 2> past_{};
  std::atomic<std::int64_t> missed_{0};
};

}  // namespace ochron

#pragma once

#include <cstdint>

namespace ochron {

/// Even steps through a recording, so many a second: the n-th lies at the frame nearest to n / perSecond seconds, at
/// every rate. A step that is no whole number of frames (5 ms at 44.1 kHz are 220.5) is never rounded by itself, so
/// that counts, frames and seconds agree to half a frame however long the recording is.
class Hop {
 public:
  /// `rate` in Hz; both above 0.
  constexpr Hop(std::int64_t perSecond, std::int64_t rate) : perSecond_(perSecond), rate_(rate) {}

  /// The frame of the n-th step: round(n rate / perSecond).
  constexpr std::int64_t frame(std::int64_t n) const { return floorOf(2 * n * rate_ + perSecond_, 2 * perSecond_); }
  /// The step that a frame lies in: the last that begins no later.
  constexpr std::int64_t stepAt(std::int64_t frame) const {
    return -floorOf(-perSecond_ * (2 * frame + 1), 2 * rate_) - 1;
  }
  /// The step whose frame is nearest.
  constexpr std::int64_t nearest(std::int64_t frame) const {
    return floorOf(2 * frame * perSecond_ + rate_, 2 * rate_);
  }
  /// How many steps begin within so many frames from the first on.
  constexpr std::int64_t count(std::int64_t frames) const { return frames > 0 ? stepAt(frames - 1) + 1 : 0; }
  /// How many steps a time takes, to the nearest.
  constexpr std::int64_t steps(double seconds) const {
    return floorOf(static_cast<std::int64_t>(2e6 * seconds * static_cast<double>(perSecond_)) + 1'000'000, 2'000'000);
  }
  constexpr double seconds(std::int64_t n) const { return static_cast<double>(n) / static_cast<double>(perSecond_); }
  constexpr double secondsOfFrame(std::int64_t frame) const {
    return static_cast<double>(frame) / static_cast<double>(rate_);
  }
  constexpr int rate() const { return static_cast<int>(rate_); }

 private:
  static constexpr std::int64_t floorOf(std::int64_t a, std::int64_t b) { return a >= 0 ? a / b : -((b - 1 - a) / b); }

  std::int64_t perSecond_;
  std::int64_t rate_;
};

}  // namespace ochron

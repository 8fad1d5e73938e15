#pragma once

#include <cstddef>
#include <memory>
#include <span>

namespace ochron {

/// Changes the speed of two channels without their pitch while they play (Rubber Band, real-time). After prepare()
/// nothing is allocated.
class LiveStretch {
 public:
  LiveStretch();
  ~LiveStretch();
  LiveStretch(const LiveStretch&) = delete;
  LiveStretch& operator=(const LiveStretch&) = delete;

  static constexpr std::size_t kBlock = 256;  ///< frames that are put in at once

  /// `slowest`, `fastest`: the speeds it will be asked for.
  void prepare(int rate, double slowest, double fastest);
  /// What was put in is forgotten. What follows comes out from its first frame on.
  void reset() noexcept;
  /// Frames that can be taken now.
  std::size_t ready() const noexcept;
  /// Puts kBlock frames in, to be played at a speed (1: as they are).
  void put(std::span<const float> left, std::span<const float> right, double speed) noexcept;
  /// Takes frames out, at most as many as are ready.
  void take(std::span<float> left, std::span<float> right) noexcept;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron

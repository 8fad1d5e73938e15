#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <vector>

#include "render/chain.h"
#include "song/envelope.h"

namespace ochron {

/// Plays a stream of song frames at changing speed, pitch going with it, as a tape machine does. Two channels. A song
/// that runs as recorded goes through untouched.
class SpeedHead : public ChainNode {
 public:
  static constexpr std::size_t kChunk = 64;  ///< song frames between two readings of the speed
  static constexpr double kMostTimes = 24;

  /// `fastest`: how many times as fast as recorded it will ever run, at most kMostTimes.
  explicit SpeedHead(double fastest = kSpeedRange.high / 100);

  void prepare(int rate) override;
  void reset() noexcept override;
  /// None: it reads ahead as far as it needs.
  Frames latency() const noexcept override { return {}; }
  void process(std::span<float> left, std::span<float> right, SongStream& input) noexcept override;

 private:
  std::size_t history() const noexcept;
  bool wants() const noexcept;
  std::span<float> room(std::size_t side) noexcept;
  void took(double speed) noexcept;
  void step(float& left, float& right) noexcept;

  double fastest_;
  std::array<std::vector<float>, 2> frames_;
  std::vector<float> speeds_;  // one a frame
  std::size_t filled_ = 0;
  double at_ = 0;         // of the next frame to be read, in frames_
  bool reading_ = false;  // frames_ holds the stream
};

}  // namespace ochron

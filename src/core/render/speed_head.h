#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <vector>

#include "song/envelope.h"

namespace ochron {

/// Plays a stream of song frames at changing speed, pitch going with it, as a tape machine does. Two channels. Memory
/// is taken in the constructor only.
class SpeedHead {
 public:
  static constexpr std::size_t kChunk = 64;  ///< song frames between two readings of the speed

  SpeedHead();
  /// The stream begins anew: what was fed before is forgotten.
  void reset() noexcept;
  /// Fills both sides until they are full or `limit` song frames have been played since the last reset; the frames
  /// written. `feed(left, right) -> double` gives the next kChunk song frames and their speed (1: as recorded).
  template <class Feed>
  std::size_t play(std::span<float> left, std::span<float> right, double limit, Feed&& feed) noexcept;
  /// Song frames played since the last reset.
  double played() const { return played_; }

 private:
  bool wants() const noexcept;
  std::span<float> room(std::size_t side) noexcept;
  void took(double speed) noexcept;
  void step(float& left, float& right) noexcept;

  std::array<std::vector<float>, 2> frames_;
  std::vector<float> speeds_;  // one a frame
  std::size_t filled_ = 0;
  double at_ = 0;  // of the next frame to be read, in frames_
  double played_ = 0;
};

/// How many frames the song's stretch [from, to) takes at the speeds of an envelope in percent.
Frames playedLength(const Envelope& speed, Frames from, Frames to);

template <class Feed>
std::size_t SpeedHead::play(std::span<float> left, std::span<float> right, double limit, Feed&& feed) noexcept {
  std::size_t done = 0;
  while (done < left.size() && played_ < limit) {
    while (wants()) {
      const auto l = room(0);
      const auto r = room(1);
      took(feed(l, r));
    }
    step(left[done], right[done]);
    ++done;
  }
  return done;
}

}  // namespace ochron

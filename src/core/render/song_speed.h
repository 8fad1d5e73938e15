#pragma once

#include <map>
#include <utility>
#include <vector>

#include "render/speed_head.h"
#include "render/stretch_head.h"
#include "song/envelope.h"

namespace ochron {

/// The song at its own speeds, pitch going along or staying. A song that runs as recorded goes through untouched.
class SongSpeed : public ChainNode {
 public:
  void prepare(int rate) override;
  void reset() noexcept override;
  Frames latency() const noexcept override { return {}; }
  Frames ahead() const noexcept override;
  void process(std::span<float> left, std::span<float> right, SongStream& input) noexcept override;

 private:
  SpeedHead tape_;
  StretchHead stretch_;
  bool stretches_ = false;
};

/// Where the song's frames lie once it is played from one on at the speeds of an envelope in percent: added up as
/// SpeedHead reads them, and rounded once. Asked for many frames it goes through the song once.
class PlayedTime {
 public:
  /// An envelope without points: as recorded.
  PlayedTime(Envelope speed, Frames from) : speed_(std::move(speed)), from_(from) {}
  /// Frames after the first one.
  Frames of(Frames frame);
  /// The first `length` frames of the song's and where they come to lie, every 4 096: both rise from one to the next.
  std::map<std::size_t, std::size_t> keys(Frames length);

 private:
  Envelope speed_;
  Frames from_;
  std::vector<double> sums_{0};  // a value every kStep frames
};

}  // namespace ochron

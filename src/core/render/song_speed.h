#pragma once

#include <memory>

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

/// How many frames the song's stretch [from, to) takes at the speeds of an envelope in percent.
Frames playedLength(const Envelope& speed, Frames from, Frames to);

}  // namespace ochron

#include "render/song_speed.h"

#include <algorithm>
#include <cmath>

namespace ochron {

void SongSpeed::prepare(int rate) {
  tape_.prepare(rate);
  stretch_.prepare(rate);
}

void SongSpeed::reset() noexcept {
  tape_.reset();
  stretch_.reset();
}

Frames SongSpeed::ahead() const noexcept { return stretches_ ? stretch_.ahead() : tape_.ahead(); }

void SongSpeed::process(std::span<float> left, std::span<float> right, SongStream& input) noexcept {
  const bool stretches = input.speed() != 0 && input.keepsPitch();
  if (stretches != stretches_) reset();
  stretches_ = stretches;
  stretches ? stretch_.process(left, right, input) : tape_.process(left, right, input);
}

Frames playedLength(const Envelope& speed, Frames from, Frames to) {
  double out = 0;
  constexpr Frames kStep{static_cast<std::int64_t>(SpeedHead::kChunk)};
  for (auto at = from; at < to; at += kStep)
    out += static_cast<double>(std::min(kStep, to - at).value) / (valueAt(speed, at, 100) / 100);
  return Frames{std::llround(out)};
}

}  // namespace ochron

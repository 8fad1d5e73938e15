#pragma once

#include <cstddef>
#include <cstdint>

namespace ochron {

/// Sound read at places between its samples, as a reel played at another speed: sinc interpolation under a Kaiser
/// window (Smith & Gossett 1984), 48 zero crossings wide, -100 dB beyond the transition band. At speeds above 1 what
/// would alias is taken out. soxr does this too, but its variable rate cannot come to a standstill.
struct SpeedSource {
  const float* samples = nullptr;  ///< of index 0
  std::ptrdiff_t step = 1;         ///< between one index and the next
  std::int64_t count = 0;          ///< outside [0, count) there is silence
};

/// The value at a fractional index, played at `speed` (its sign does not matter). Allocates and locks nothing once
/// prepareSpeedReading() was called.
float speedRead(const SpeedSource& source, double index, double speed) noexcept;
/// How many samples to either side of an index are read at a speed.
std::int64_t speedReach(double speed) noexcept;
/// Works the table out; call once before the audio thread reads.
void prepareSpeedReading();

}  // namespace ochron

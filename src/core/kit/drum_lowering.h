#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "base/units.h"
#include "dsp/samples.h"

namespace ochron {

inline constexpr double kDrumRingsSeconds = 0.9;  ///< at the longest

/// How a drum decays in one mic, band by band: what its strokes add to what was there before, the median of many.
struct DrumDecay {
  int size = 0;                           ///< frames of a window
  std::vector<std::vector<float>> power;  ///< by steps of a quarter window from the attack on, by bin; of a stroke of 1
  std::int64_t length = 0;                ///< frames until it is 45 dB down
};
/// `strokes`: frames where attacks begin.
DrumDecay decayOf(const Samples& mic, std::span<const std::int64_t> strokes, int rate);

/// Strokes of a drum taken out of a stretch of a mic: only in the bands that the drum occupies while it rings, and
/// never below what sounded there right before the stroke, so that a ringing cymbal rings on. What lies before the
/// first stroke is the recording to the bit.
std::vector<float> withoutDrum(const Samples& mic, std::span<const std::int64_t> strokes, const DrumDecay& decay,
                               FrameRange range, int rate);

/// Stretches in which strokes ring into each other, in order: what is lowered at a time.
struct RingingStrokes {
  std::vector<std::int64_t> strokes;
  FrameRange range;
};
std::vector<RingingStrokes> ringing(std::span<const std::int64_t> strokes, std::int64_t length);

}  // namespace ochron

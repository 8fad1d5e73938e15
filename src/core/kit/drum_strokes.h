#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "dsp/samples.h"

namespace ochron {

/// One drum as one mic hears it: its strokes laid over each other by correlation, so that bleed averages out.
struct DrumInMic {
  struct Stroke {
    std::int64_t at = 0;  ///< frame of the mic where its attack begins
    double likeness = 0;  ///< correlation with the others' mean
  };
  std::vector<Stroke> strokes;  ///< one for each that was asked for, in order
  std::vector<float> mean;      ///< their mean, of peak 1; from kBeforeMs before the attack on
  std::int64_t attack = 0;      ///< frame of the mean where the attack begins
  double clearness = 0;         ///< its peak over what is left of everything else, a factor

  static constexpr double kBeforeMs = 4;
};

/// Finds the attack of each stroke to the sample: each is laid where it is most like the mean of all, and the mean
/// says where the attack begins (attackIn). `strokes`: where hits were found, within 2.5 ms. One that is unlike the
/// others, and all where most are, have their attacks by their own rise (refineAttack); then there is no mean.
DrumInMic drumInMic(const Samples& mic, std::span<const std::int64_t> strokes, int rate);

/// How far strokes stand out from the 10 ms before them in a mic: a factor of power, the median's.
double standsOut(const Samples& mic, std::span<const std::int64_t> strokes, int rate);
/// How far strokes stand out from all that a mic records: power while they are struck (15 ms, the median's) against the
/// whole recording's. Highest in the mic that a drum has for itself.
double dominates(const Samples& mic, std::span<const std::int64_t> strokes, int rate);

/// A sound against a drum: by how much it must be later so that both waves fall together, and how alike they are there.
struct SoundFit {
  std::int64_t lag = 0;
  double likeness = 0;  ///< -1 to 1; below 0 they cancel
};
/// `attack`: of the sound. Moved by up to 1 ms where their bodies are alike, by up to 2 ms where both are plainly the
/// same drum; else attack lies on attack, and a likeness near 0 says that they neither help nor cancel each other.
SoundFit fitTo(const DrumInMic& drum, std::span<const float> sound, std::int64_t attack, int rate);

}  // namespace ochron

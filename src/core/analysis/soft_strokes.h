#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "analysis/mic_level.h"
#include "base/progress.h"

namespace ochron {

/// An onset of an instrument that sounds on.
struct SoftStroke {
  std::int64_t at = 0;  ///< frame of the recording
  double level = 0;     ///< against the loud strokes of the mic
  double claim = 0;     ///< level, marked down where little is new; 0.05 counts at the default sensitivity
};

/// Onsets of a mic that sounds on between its strokes (bass, strings, voice): only what brings new sound is one. It is
/// placed by the first sharp attack near it (consonant and vowel, the strings of a chord are one), else where the rise
/// begins.
std::vector<SoftStroke> findSoftStrokes(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                        double from, double to);

}  // namespace ochron

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
  double sure = 0;      ///< by how much of it is new: above 0 it counts, -1 to 1
};

/// Onsets of a mic that sounds on between its strokes (bass, strings, voice): only what brings new sound is one. Where
/// clear onsets have sharp attacks (plucked, hammered), each is placed by the first near it (the strings of a chord are
/// one); else where the level begins to rise, or, without a rise, where most is new.
std::vector<SoftStroke> findSoftStrokes(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                        double from, double to);

}  // namespace ochron

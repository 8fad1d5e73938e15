#pragma once

#include <span>
#include <vector>

#include "analysis/hits/heard_stroke.h"
#include "analysis/levels/mic_level.h"
#include "base/progress.h"

namespace ochron {

/// Onsets of a mic that sounds on between its strokes (bass, strings, voice): only what brings new sound is one. Where
/// clear onsets have sharp attacks (plucked, hammered), each is placed by the first near it (the strings of a chord are
/// one); else where the level begins to rise, or, without a rise, where most is new.
std::vector<HeardStroke> findSoftStrokes(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                         double from, double to);

}  // namespace ochron

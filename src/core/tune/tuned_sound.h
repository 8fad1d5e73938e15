#pragma once

#include <span>
#include <vector>

#include "base/units.h"
#include "terms/sung.h"
#include "tune/correction.h"
#include "tune/regrain.h"

namespace ochron {

/// The new sound of one stretch that a pitch plan moves. `mono` is what the track was heard in, from `start` of the
/// track's time on; the channels begin there too.
Regrained tunedSound(const std::vector<std::span<const float>>& channels, std::span<const float> mono, int rate,
                     Frames start, const PitchTrack& track, const MovedStretch& stretch);

}  // namespace ochron

#pragma once

#include <span>
#include <vector>

#include "analysis/pitch.h"
#include "tune/correction.h"
#include "tune/regrain.h"

namespace ochron {

/// The new sound of one stretch that a pitch plan moves; `mono` is what the track was heard in. The channels start with
/// it and are read around the stretch only.
Regrained tunedSound(const std::vector<std::span<const float>>& channels, std::span<const float> mono, int rate,
                     const PitchTrack& track, const MovedStretch& stretch, double formantCents);

}  // namespace ochron

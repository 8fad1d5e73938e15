#pragma once

#include <span>
#include <vector>

#include "base/units.h"
#include "terms/sung.h"

namespace ochron {

/// Where the periods of a voiced stretch lie: one place in each, always the same one of its waveform, near its loudest
/// peak. Places are frames of `samples`, between them too, rising; none are given where the sound is not periodic.
/// `start`: where the samples begin in the track's time. `first` and `last`: values of the track.
std::vector<double> periodMarks(std::span<const float> samples, Frames start, int rate, const PitchTrack& track,
                                std::size_t first, std::size_t last);

}  // namespace ochron

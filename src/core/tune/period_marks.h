#pragma once

#include <span>
#include <vector>

#include "base/units.h"
#include "terms/sung.h"

namespace ochron {

/// How far past a stretch its periods are followed, as long as they go on alike, s.
struct PeriodsBeyond {
  double before = 0.015;
  double after = 0.015;
};

/// Where the periods of a voiced stretch lie: one place in each, always the same one of its waveform, a little after
/// its loudest peak. Places are frames of `samples`, between them too, rising. Where the sound breaks off (breath,
/// stop, step, creak) they begin anew behind it; what is voiced and not periodic is divided as its pitch says, so that
/// they cover all of it. `start`: where the samples begin in the track's time. `first` and `last`: values of the track.
std::vector<double> periodMarks(std::span<const float> samples, Frames start, int rate, const PitchTrack& track,
                                std::size_t first, std::size_t last, const PeriodsBeyond& beyond = {});

}  // namespace ochron

#pragma once

#include <vector>

#include "analysis/pitch/periodicity.h"
#include "terms/sung.h"

namespace ochron {

/// Decides which values of a track sound (`voiced` of 0.5 and more; before, by the likeliest path) and which do not:
/// stretches of one movement that
/// stand over the recording's own noise and whose periods are alike, most clearly somewhere in them. Breath, hum, room
/// and pauses have a pitch too, but none that stands out. Where two notes ring into each other neither is alike for a
/// moment: there the path holds, as long as it is as loud as what is on both sides. The probability is by the likeness.
void markVoiced(std::vector<PitchTrack::Value>& values, const HeardPeriods& heard);

}  // namespace ochron

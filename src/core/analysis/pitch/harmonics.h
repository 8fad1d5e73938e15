#pragma once

#include <cstdint>
#include <span>

#include "analysis/pitch/pitch_slips.h"

namespace ochron {

/// The odd harmonics of a fundamental (its 1st, 3rd, 5th and 7th) about a frame, against its even ones (2nd to 8th),
/// and the greater of what lies half way to their neighbours beside them on either side; in a Hann window of 4 periods.
OddHarmonics oddHarmonics(std::span<const float> samples, int rate, std::int64_t centre, double fundamental);

}  // namespace ochron

#pragma once

#include <optional>
#include <span>
#include <vector>

#include "terms/sung.h"

namespace ochron {

/// Where a melody would have each note of a line, cents above 1 Hz: the pitch of the melody's note that it sounds
/// together with longest, half of the shorter one's length at least; none where there is none. The melody goes up or
/// down by whole octaves to where it lies nearest to the line (by the median), so that it may be written in any.
/// Both in order and apart.
std::vector<std::optional<double>> pitchesOf(std::span<const SungNote> melody, std::span<const SungNote> line);

}  // namespace ochron

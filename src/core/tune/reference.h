#pragma once

#include <optional>
#include <vector>

#include "terms/sung.h"

namespace ochron {

/// The pitch of A4 (Hz, to 0.1) at which notes lie nearest to the twelve equal semitones: the mean direction of their
/// distances on a circle of 100 cents, longer notes weighing more; 427.5 to 452.9 Hz. None for too few notes, or when
/// they lie all around the circle.
std::optional<double> referenceOf(const std::vector<SungNote>& notes);

}  // namespace ochron

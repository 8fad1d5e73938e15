#pragma once

#include <array>
#include <cstddef>
#include <vector>

#include "analysis/hits/attacks.h"
#include "analysis/levels/mic_level.h"

namespace ochron {

/// What tells whether an attack on a snare's mic is its own drum: how far each band lies off the mic's loud strokes,
/// once the level is the same, how loud it is and how it rises.
using SnareClues = std::array<double, 18>;

/// The clues of every attack. `sure`: how surely each is a stroke by the likeness of its spectrum (own_drum.h). Empty
/// where no loud stroke tells what the drum is like.
std::vector<SnareClues> snareClues(const std::vector<Attack>& attacks, const MicLevel& level,
                                   const std::vector<double>& sure);

/// How surely it is the mic's own drum by its clues: above 0 yes, below 0 no, in the scale of MicStroke::sure.
double sureBy(const SnareClues& clues);

}  // namespace ochron

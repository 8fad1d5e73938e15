#pragma once

#include <array>
#include <span>

namespace ochron {

/// How much of each of the twelve pitch classes sounds, C first; sums to 1, or all 0 in silence.
using PitchClasses = std::array<double, 12>;

/// Each moment of sound counts as much as any other, so that a quiet verse says as much as a chorus.
PitchClasses pitchClassesOf(std::span<const float> samples, int rate);

/// How well one fits another when it is moved up by so many semitones: the correlation of both, -1 to 1; 0 when one is
/// silent.
double keyFit(const PitchClasses& moved, int semitones, const PitchClasses& with);

}  // namespace ochron

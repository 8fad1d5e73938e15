#pragma once

#include <cstddef>
#include <utility>
#include <vector>

#include "analysis/pitch/pitch.h"

namespace ochron {

/// The pitch of a track's values [first, last), cents above 1 Hz; straight across values that have none.
std::vector<double> pitchCourse(const PitchTrack& track, std::size_t first, std::size_t last);

/// A course without what moves faster than some 3 Hz: 3 Hz comes through by half, 5 Hz by a seventh.
/// Straight lines are fitted under a Gaussian, so that the ends lag no more than the middle.
std::vector<double> withoutVibrato(const std::vector<double>& course);
/// How much of a movement so fast comes through.
double movementKept(double hertz);
/// The same of a course whose vibrato's rate is known: a sine of that rate is fitted beside each line and left out, so
/// that none of it comes through, nor bends the ends.
std::vector<double> withoutVibrato(const std::vector<double>& course, double hertz);

/// The part [first, last) of a note's course that has settled about its centre, a vibrato of any extent included; what
/// comes before and after it glides. All of it when nothing has settled.
std::pair<std::size_t, std::size_t> settledPart(const std::vector<double>& course, double centre);

}  // namespace ochron

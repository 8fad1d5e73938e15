#pragma once

#include <span>
#include <vector>

#include "analysis/pitch/pitch.h"

namespace ochron {

/// The notes of a line: the likeliest course of constant pitches through its track, where a change costs so much that a
/// vibrato is one note and a step is two. A change that lies by one of `onsets` (s, sorted: the line's hits) begins
/// there; one amid a pitch begins the same note anew where its cycles break off too (cycle_break.h). `samples`: what
/// the track was heard in. Reports the last fifth of hearing a line, after pitchOf(); when cancelled, what there is.
std::vector<SungNote> notesOf(const PitchTrack& track, std::span<const float> samples, int rate,
                              const std::vector<double>& onsets, Progress& progress);

}  // namespace ochron

#pragma once

#include <span>
#include <vector>

#include "analysis/pitch.h"
#include "analysis/repeated_notes.h"

namespace ochron {

/// The notes of a line: the likeliest course of constant pitches through its track, where a change costs so much that a
/// vibrato is one note and a step is two. A change that lies by one of `onsets` (sorted: the line's hits) that counts
/// begins there; the same note is begun anew where its cycles break off (repeated_notes.h). `samples`: what the track
/// was heard in.
std::vector<SungNote> notesOf(const PitchTrack& track, std::span<const float> samples, int rate,
                              const std::vector<NoteOnset>& onsets);

}  // namespace ochron

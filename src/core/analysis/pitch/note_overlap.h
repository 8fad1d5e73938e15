#pragma once

#include <optional>
#include <span>
#include <vector>

#include "terms/sung.h"

namespace ochron {

/// A note that begins while the one before it still rings: for a while both sound, and the louder one is heard. A voice
/// that glides from note to note has one pitch at a time and is none of these.
struct NoteOverlap {
  double begins = 0;        ///< s: the harmonics that only the new note has pass 18 dB below their most
  std::size_t arrives = 0;  ///< the track's first value with the new pitch
};

/// How `note` overlaps the one `before` it, of another pitch, in `samples` (what the track was heard in). None: they do
/// not sound at once, or share all of their harmonics (an octave up).
std::optional<NoteOverlap> overlapOf(const PitchTrack& track, std::span<const float> samples, int rate,
                                     const SungNote& before, const SungNote& note);

/// The median of what was heard in values [from, to), sure or not, Hz; 0 of nothing.
double middleHertz(const PitchTrack& track, std::size_t from, std::size_t to);

/// Whether a pitch heard between two notes is none: both sound at once, and what repeats is neither.
bool liesBetween(std::span<const float> samples, int rate, const SungNote& before, const SungNote& between,
                 const SungNote& after);

/// The track with the beginnings that another note rang over given the pitch that the note is first heard with.
/// `notes`: those of the line, in order.
PitchTrack withBeginnings(PitchTrack track, std::span<const float> samples, int rate,
                          const std::vector<SungNote>& notes);

}  // namespace ochron

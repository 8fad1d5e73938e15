#pragma once

#include <functional>
#include <vector>

#include "analysis/pitch/notes.h"
#include "song/tuning.h"
#include "tune/sung_parts.h"

namespace ochron {

/// Where a note is brought to.
struct TunedNote {
  SungNote note;
  SungParts parts;
  double target = 0;           ///< cents above 1 Hz: the scale's pitch, or the user's
  double after = 0;            ///< its centre then, transposed with the whole line
  TuneSettings settings = {};  ///< what holds for it
};

/// A voiced stretch whose pitch is changed.
struct MovedStretch {
  static constexpr std::size_t kNoNeighbour = 1'000;  ///< a gap is no longer

  std::size_t first = 0;         ///< value of the track
  std::vector<double> cents;     ///< up, a value each; 0 at the ends that are joined to what is left as it is
  std::vector<double> formants;  ///< cents by which the voice's colour goes up, a value each
  /// Values without pitch between it and what is sung before it; 0: that goes on into it, unchanged.
  std::size_t gapBefore = kNoNeighbour;
  std::size_t gapAfter = kNoNeighbour;

  bool operator==(const MovedStretch&) const = default;
};

/// Where a centre comes to lie on its way to a target, by what is kept of it, the tolerance and the largest move.
double towards(double target, double centre, const TuneSettings& settings);

/// Every note with its target. `wishes`: one for each note, or none at all.
std::vector<TunedNote> tuned(const PitchTrack& track, const std::vector<SungNote>& notes, const TuneSettings& settings,
                             const std::vector<NoteWish>& wishes = {});

/// The stretches to be moved, in order and apart. Inside a note its centre, wander and vibrato change as its settings
/// say; from one note to the next the change itself glides, and the voice's own glide is as quick as is kept of it.
/// Where nothing changes there is no stretch. `plan` holds for what is voiced and no note.
std::vector<MovedStretch> movedStretches(const PitchTrack& track, const std::vector<TunedNote>& notes,
                                         const TuneSettings& plan);

/// Everything voiced, up by so many cents, its formants by so many.
std::vector<MovedStretch> transposed(const PitchTrack& track, double cents, double formants);
/// The same by what holds at each value of the track; voiced stretches where nothing changes are left out.
std::vector<MovedStretch> transposed(const PitchTrack& track, const std::function<double(std::size_t)>& cents,
                                     const std::function<double(std::size_t)>& formants);

}  // namespace ochron

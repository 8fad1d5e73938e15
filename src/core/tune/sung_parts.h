#pragma once

#include <vector>

#include "analysis/pitch/notes.h"

namespace ochron {

/// What a note is made of. Inside its settled part the pitch heard is centre + wander + vibrato, to the last bit;
/// before and after it the note glides.
struct SungParts {
  double centre = 0;      ///< cents above 1 Hz, a median
  std::size_t first = 0;  ///< the settled part, values of the track: [first, last)
  std::size_t last = 0;
  std::vector<double> wander;   ///< cents, one for each value of it: what moves more slowly than some 3 Hz
  std::vector<double> vibrato;  ///< cents: what moves faster
  double vibratoHertz = 0;      ///< its rate; 0 when there is none to speak of
  double vibratoCents = 0;      ///< its extent to either side
};

SungParts partsOf(const PitchTrack& track, const SungNote& note);

}  // namespace ochron

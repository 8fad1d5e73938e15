#pragma once

#include <array>
#include <cstdint>

#include "analysis/levels/band_energy.h"

namespace ochron {

/// What a stroke adds, against what is loud in this take and against itself: the clues to kick and snare where one mic
/// or a mix is all there is. No band or level is a drum's own: only what this drummer's strokes have in common counts.
struct OneMicClues {
  std::array<double, BandEnergy::kBands> loud{};   ///< dB under the band's loud level, of its first 60 ms
  std::array<double, BandEnergy::kBands> share{};  ///< dB, of all that it adds
  std::array<double, BandEnergy::kBands> ring{};   ///< dB: what is left of its first 20 ms from 60 to 120 ms
};
OneMicClues oneMicClues(const BandEnergy& energy, std::int64_t at);

/// Log odds of what a stroke is.
struct OneMicOdds {
  double kick = 0;         ///< that one is in it
  double snare = 0;        ///< that one is in it
  double tomForSnare = 0;  ///< that what sounds like a snare is a tom
};
OneMicOdds oneMicOdds(const OneMicClues& clues);

/// How far a stroke sounds like kick, snare, tom, hat and cymbal, 0 to 1, by those odds first; what is neither, by how
/// it sounds (`guessed`, of DrumGuesser), and nothing where that is unsure.
std::array<double, 5> namedOnOneMic(const BandEnergy& energy, std::int64_t at, std::array<double, 5> guessed);

}  // namespace ochron

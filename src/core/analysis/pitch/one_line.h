#pragma once

#include <span>
#include <vector>

#include "terms/sung.h"

namespace ochron {

/// How far a recording is one line, measured on what sounds beside the harmonics of its pitch rather than by how sure
/// the pitch is: breath, noise and rooms leave noise there, a second note leaves a tone.
struct OneLine {
  /// A stretch, s.
  struct Part {
    double start = 0;
    double end = 0;
  };
  double share = 0;             ///< 0 to 1, by amplitude, of what sounds that has one pitch
  double beside = 0;            ///< share of it with another tone beside
  double faintBeside = 0;       ///< the same of fainter ones
  double noiseDb = 0;           ///< how far the noise (room, breath) lies under the loudest
  std::vector<Part> elsewhere;  ///< of a third of a second and more where it is none

  /// More sounds beside it than beside a single line.
  bool besideTooMuch() const;
  bool one() const;
};

/// `samples` are what the track was heard of. `rate` in Hz.
OneLine oneLine(const PitchTrack& track, std::span<const float> samples, int rate);

}  // namespace ochron

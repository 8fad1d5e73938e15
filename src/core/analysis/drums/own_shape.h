#pragma once

#include <span>
#include <vector>

#include "analysis/hits/attacks.h"
#include "analysis/levels/added_spectrum.h"
#include "analysis/levels/mic_level.h"
#include "terms/drum_class.h"

namespace ochron {

/// What a close mic's own drum sounds like, learned from the strokes that are surely its own.
struct OwnShape {
  bool known = false;
  DrumSpectrum shape{};               ///< dB, median of these strokes
  std::vector<DrumSpectrum> spectra;  ///< of every attack
  std::vector<double> asDrum;         ///< 0 to 1, of every attack: how far it sounds like such a drum anywhere

  /// 0 dB: as loud as the strokes that were learned from; by the band in which a quarter of all is softer.
  double gainDb(std::size_t attack) const;
};

/// Learned from strokes that are alike, lead in level and sound like such a drum: a mic whose drum is struck seldom
/// hears others far more often, but softer and in other colours; one loud knock is like nothing else. Of a mic that is
/// struck all the time it is the median of its loud strokes. `drum`: snare or tom.
OwnShape learnOwnShape(std::span<const float> samples, const MicLevel& level, const std::vector<Attack>& attacks,
                       DrumClass drum);

}  // namespace ochron

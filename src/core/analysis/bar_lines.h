#pragma once

#include <vector>

#include "analysis/onset_curves.h"

namespace ochron {

/// Which beats begin bars.
struct BarLines {
  int beatsPerBar = 4;
  std::vector<std::size_t> downbeats;  ///< indices into the beats
  double margin = 0;                   ///< by how much the reading beats the next best
};

/// The bars of a recording from what its beats carry: low drums, new harmony, all that begins together. Three or four
/// beats to the bar. `beats`: seconds.
BarLines barLines(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats);

}  // namespace ochron

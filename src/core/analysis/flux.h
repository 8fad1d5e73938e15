#pragma once

#include <array>
#include <span>
#include <vector>

#include "base/progress.h"

namespace ochron {

inline constexpr int kFluxBands = 36;
/// Magnitudes of the bands of one frame, from low to high.
using BandFrame = std::array<float, kFluxBands>;

/// Band spectrum and onset strength of one channel.
struct FluxTrace {
  int hop = 0;                   ///< frames between two values
  std::vector<BandFrame> bands;  ///< linear magnitude
  std::vector<float> flux;       ///< 0 upwards
};

/// SuperFlux over 36 log-spaced bands, 10.7 ms windows every 2.5 ms. `scale` brings the guide's loud strokes to
/// about 1.
FluxTrace traceFlux(std::span<const float> samples, int rate, double scale, Progress& progress, double progressFrom,
                    double progressTo);

}  // namespace ochron

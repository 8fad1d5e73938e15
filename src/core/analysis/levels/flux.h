#pragma once

#include <array>
#include <span>
#include <vector>

#include "base/hop.h"
#include "base/progress.h"

namespace ochron {

inline constexpr int kFluxBands = 36;
/// Magnitudes of the bands of one frame, from low to high.
using BandFrame = std::array<float, kFluxBands>;

/// The lower edge of a band, Hz; 36 of them, evenly apart on a log scale, reach from 40 Hz to 16 kHz.
double fluxBandEdge(std::size_t band);

/// Band spectrum of one channel, 400 frames a second.
struct BandTrace {
  Hop hop;
  std::vector<BandFrame> bands;  ///< linear magnitude
};

/// Its onset strength too.
struct FluxTrace : BandTrace {
  std::vector<float> flux;  ///< 0 upwards
};

/// How long a window is, s, at least three quarters of it and at most one and a half (a power of two in frames).
inline constexpr double kFluxWindow = 0.0107;
inline constexpr double kBroadWindow = 0.0213;

/// The part of a work's progress that something is.
struct ProgressPart {
  double from = 0;
  double to = 1;
};

/// Windows centred on their frames, of `windowSeconds`; `scale` multiplies the samples. `rate` in Hz, any. When
/// cancelled, what there is.
BandTrace traceBands(std::span<const float> samples, int rate, double windowSeconds, double scale, Progress& progress,
                     ProgressPart part);

/// SuperFlux over 36 log-spaced bands, 10.7 ms windows every 2.5 ms. `scale` brings the guide's loud strokes to
/// about 1.
FluxTrace traceFlux(std::span<const float> samples, int rate, double scale, Progress& progress, ProgressPart part);

}  // namespace ochron

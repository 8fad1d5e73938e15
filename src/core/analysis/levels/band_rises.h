#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "analysis/levels/flux.h"
#include "analysis/levels/mic_level.h"

namespace ochron {

/// How far each frame's spectrum rises over those 10 to 20 ms before it, dB: the mean over the bands, each against its
/// own loud level (its 99th percentile) and no deeper than 40 dB under it, weighted by the root of its frequency, since
/// the level of noise in a band moves by one over the root of its width.
std::vector<float> bandRises(const BandTrace& trace);

/// A rise over the whole spectrum.
struct BroadRise {
  std::int64_t at = 0;  ///< frame
  double rise = 0;      ///< dB, the mean over the bands (bandRises)
};

/// The peaks of the rises of a recording, of 1 dB and more, each the highest within 15 ms. When cancelled, none.
std::vector<BroadRise> broadRises(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                  ProgressPart part);

}  // namespace ochron

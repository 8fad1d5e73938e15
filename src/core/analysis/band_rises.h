#pragma once

#include <vector>

#include "analysis/flux.h"

namespace ochron {

/// How far each frame's spectrum rises over those 10 to 20 ms before it, dB: the mean over the bands, each against its
/// own loud level (its 99th percentile) and no deeper than 40 dB under it, weighted by the root of its frequency, since
/// the level of noise in a band moves by one over the root of its width.
std::vector<float> bandRises(const BandTrace& trace);

}  // namespace ochron

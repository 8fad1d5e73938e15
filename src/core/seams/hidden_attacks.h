#pragma once

#include <vector>

#include "seams/mic_view.h"

namespace ochron {

/// Where a mic has an attack in [from, to) of take time, whether a hit stands for it or not: a hat or a cymbal that
/// nobody asked about must be neither cut away nor heard twice by a joint. Known to 3 ms, sorted. An attack's power is
/// eight times that of the 6 ms before it and a tenth of the mic's mean.
std::vector<Frames> attacksHeard(Frames from, Frames to, int rate, const EnergySums& sums);

}  // namespace ochron

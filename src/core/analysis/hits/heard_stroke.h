#pragma once

#include <cstdint>
#include <vector>

namespace ochron {

/// A stroke as one mic's sound alone tells it.
struct HeardStroke {
  std::int64_t at = 0;  ///< frame of the recording
  double level = 0;     ///< against the loud strokes of the mic
  double sure = 0;      ///< above 0 it counts, -1 to 1
};

/// Of strokes nearer to each other than `apart` frames the surer stays. Sorted by time, before and after.
std::vector<HeardStroke> surerOfNear(const std::vector<HeardStroke>& strokes, std::int64_t apart);

}  // namespace ochron

#pragma once

#include <algorithm>
#include <cmath>

namespace ochron {

/// A way from 0 to 1 with one bend, x and bend limited to 0..1 and -1..1: straight at 0, late below, early above.
inline double bent(double x, double bend) {
  x = std::clamp(x, 0.0, 1.0);
  return bend == 0 ? x : std::pow(x, std::exp2(-2.0 * std::clamp(bend, -1.0, 1.0)));
}

}  // namespace ochron

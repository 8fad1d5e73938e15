#pragma once

#include <algorithm>

namespace ochron {

/// Where between samples a curve is highest, and how high it is there.
struct Peak {
  double shift = 0;  ///< samples from the middle one, -0.5 to 0.5
  double height = 0;
};

/// The top of the parabola through three neighbouring samples, the middle one the highest; the middle one itself where
/// they do not bend down. For a dip: of their negatives.
inline Peak peakOf(double before, double middle, double after) {
  const double bend = before - 2 * middle + after;
  if (bend >= 0) return {0, middle};
  const double shift = std::clamp(0.5 * (before - after) / bend, -0.5, 0.5);
  return {shift, middle - 0.25 * (before - after) * shift};
}

}  // namespace ochron

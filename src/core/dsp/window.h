#pragma once

#include <cmath>
#include <cstddef>
#include <numbers>
#include <vector>

namespace ochron {

/// A Hann window's weight, `along` it from its beginning (0) to its end (1).
inline double hannAt(double along) { return 0.5 - 0.5 * std::cos(2 * std::numbers::pi * along); }

/// A Hann window of so many frames. `first`: where its first frame lies, in frames: 0, and copies of it half a window
/// apart add up to one; 0.5, and it is the same from both sides.
inline std::vector<float> hannWindow(int size, double first = 0) {
  std::vector<float> out(static_cast<std::size_t>(size));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = static_cast<float>(hannAt((static_cast<double>(i) + first) / size));
  return out;
}

}  // namespace ochron

#pragma once

#include <cmath>
#include <cstddef>
#include <numbers>
#include <vector>

namespace ochron {

/// A Hann window's weight, `along` it from its beginning (0) to its end (1).
inline double hannAt(double along) { return 0.5 - 0.5 * std::cos(2 * std::numbers::pi * along); }

/// hannAt() at places that are evenly apart, without a cosine for each.
class HannWalk {
 public:
  HannWalk(double along, double step)
      : x_(std::cos(2 * std::numbers::pi * along)),
        y_(std::sin(2 * std::numbers::pi * along)),
        turnX_(std::cos(2 * std::numbers::pi * step)),
        turnY_(std::sin(2 * std::numbers::pi * step)) {}
  double next() {
    const double weight = 0.5 - 0.5 * x_;
    const double x = x_ * turnX_ - y_ * turnY_;
    y_ = x_ * turnY_ + y_ * turnX_;
    x_ = x;
    return weight;
  }

 private:
  double x_, y_, turnX_, turnY_;
};

/// A Hann window of so many frames. `first`: where its first frame lies, in frames: 0, and copies of it half a window
/// apart add up to one; 0.5, and it is the same from both sides.
inline std::vector<float> hannWindow(int size, double first = 0) {
  std::vector<float> out(static_cast<std::size_t>(size));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = static_cast<float>(hannAt((static_cast<double>(i) + first) / size));
  return out;
}

}  // namespace ochron

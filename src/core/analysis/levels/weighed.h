#pragma once

#include <array>
#include <cstddef>

namespace ochron {

/// What clues say together: their sum, each times its weight.
template <std::size_t N>
double weighed(const std::array<double, N>& clues, const std::array<double, N>& weights) {
  double out = 0;
  for (std::size_t i = 0; i < N; ++i) out += weights[i] * clues[i];
  return out;
}

}  // namespace ochron

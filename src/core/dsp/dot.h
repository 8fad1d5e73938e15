#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <span>

namespace ochron {

/// Sum of products, in lanes that the compiler can work on at once; over what both have.
inline double dot(std::span<const float> x, std::span<const float> y) {
  constexpr std::size_t kLanes = 8;
  std::array<double, kLanes> sums{};
  const auto n = std::min(x.size(), y.size());
  std::size_t i = 0;
  for (; i + kLanes <= n; i += kLanes)
    for (std::size_t k = 0; k < kLanes; ++k) sums[k] += static_cast<double>(x[i + k]) * static_cast<double>(y[i + k]);
  double out = 0;
  for (; i < n; ++i) out += static_cast<double>(x[i]) * static_cast<double>(y[i]);
  for (const double s : sums) out += s;
  return out;
}

}  // namespace ochron

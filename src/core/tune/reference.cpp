#include "tune/reference.h"

#include <cmath>
#include <complex>
#include <numbers>

namespace ochron {

std::optional<double> referenceOf(const std::vector<SungNote>& notes) {
  constexpr std::size_t kFewest = 4;
  constexpr double kAgree = 0.35;  // length of the mean direction, 0 to 1
  constexpr double kLongest = 1;   // s: what is longer weighs no more
  if (notes.size() < kFewest) return {};
  std::complex<double> sum;
  double weights = 0;
  for (const auto& n : notes) {
    const double weight = std::min(kLongest, n.end - n.start);
    sum += std::polar(weight, (centsOf(n.hertz) - centsOf(440)) / 100 * 2 * std::numbers::pi);
    weights += weight;
  }
  if (weights <= 0 || std::abs(sum) < kAgree * weights) return {};
  const double cents = std::arg(sum) / (2 * std::numbers::pi) * 100;
  return std::round(440 * std::exp2(cents / 1200) * 10) / 10;
}

}  // namespace ochron

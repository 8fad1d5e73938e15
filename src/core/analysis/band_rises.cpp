#include "analysis/band_rises.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "analysis/mic_level.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr double kLoudOfBand = 0.99;
constexpr double kBandFloor = 1e-4;  // of its loud power
constexpr std::array<std::size_t, 3> kLags{4, 6, 8};

}  // namespace

std::vector<float> bandRises(const BandTrace& trace) {
  const auto count = trace.bands.size();
  std::vector<double> weights;
  double allWeights = 0;
  for (std::size_t b = 0; b < kFluxBands; ++b) {
    weights.push_back(std::sqrt(fluxBandEdge(b)));
    allWeights += weights.back();
  }
  std::vector<float> out(count, 0.0F);
  std::vector<float> levels(count);
  for (std::size_t b = 0; b < kFluxBands; ++b) {
    std::vector<double> powers;
    powers.reserve(count);
    for (const auto& frame : trace.bands) powers.push_back(static_cast<double>(frame[b]) * frame[b]);
    const double loud = percentile(powers, kLoudOfBand);
    if (loud <= 0) continue;
    for (std::size_t n = 0; n < count; ++n) levels[n] = static_cast<float>(decibelsOf(powers[n] / loud + kBandFloor));
    const auto weight = static_cast<float>(weights[b] / allWeights);
    for (auto n = kLags.back(); n < count; ++n) {
      float before = levels[n - kLags.front()];
      for (const auto lag : kLags) before = std::max(before, levels[n - lag]);
      out[n] += weight * std::max(0.0F, levels[n] - before);
    }
  }
  return out;
}

}  // namespace ochron

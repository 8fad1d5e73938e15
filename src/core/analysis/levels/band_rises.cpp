#include "analysis/levels/band_rises.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "analysis/levels/mic_level.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr double kLeastBroadDb = 1;
constexpr double kBroadApartSeconds = 0.015;
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

std::vector<BroadRise> broadRises(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                  ProgressPart part) {
  const auto trace = traceBands(samples, level.rate, kBroadWindow, 1.0 / level.reference, progress, part);
  std::vector<BroadRise> out;
  if (progress.cancelled()) return out;
  const auto rises = bandRises(trace);
  const auto reach = trace.hop.steps(kBroadApartSeconds);
  for (std::int64_t n = 0; n < std::ssize(rises); ++n) {
    const float rise = rises[static_cast<std::size_t>(n)];
    if (rise < kLeastBroadDb) continue;
    const auto first = rises.begin() + std::max<std::int64_t>(0, n - reach);
    const auto last = rises.begin() + std::min(std::ssize(rises), n + reach + 1);
    if (std::max_element(first, last) - rises.begin() == n) out.push_back({trace.hop.frame(n), rise});
  }
  return out;
}

}  // namespace ochron

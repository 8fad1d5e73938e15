#include "analysis/pitch/colour_change.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kBefore = 0.15;  // s from the beginning of what is heard before the moment
constexpr double kAfter = 0.06;   // s to the beginning of what is heard after it
constexpr double kLength = 0.11;
constexpr double kWindow = 0.042;  // s, at least half of it
constexpr double kCounts = 1e-4;   // of the loudest band
constexpr std::array<double, 10> kEdges{150, 400, 700, 1000, 1400, 1900, 2500, 3200, 4200, 5500};  // Hz

}  // namespace

ColourChange::ColourChange(std::span<const float> samples, int rate)
    : samples_(samples),
      rate_(rate),
      fft_(static_cast<int>(std::bit_floor(static_cast<unsigned>(kWindow * rate)))),
      window_(hannWindow(fft_.size())) {
  for (std::size_t b = 0; b < firstBins_.size(); ++b)
    firstBins_[b] = std::min(fft_.bins().size(), static_cast<std::size_t>(std::ceil(kEdges[b] * fft_.size() / rate)));
}

ColourChange::Bands ColourChange::powers(std::span<const float> sound) {
  Bands out{};
  const auto time = fft_.time();
  const auto size = time.size();
  for (std::size_t at = 0; at + size <= sound.size(); at += size / 4) {
    for (std::size_t i = 0; i < size; ++i) time[i] = sound[at + i] * window_[i];
    fft_.forward();
    for (std::size_t b = 0; b < out.size(); ++b)
      for (const auto& bin : fft_.bins().subspan(firstBins_[b], firstBins_[b + 1] - firstBins_[b]))
        out[b] += std::norm(bin);
  }
  return out;
}

double ColourChange::at(double seconds) {
  const auto first = std::llround((seconds - kBefore) * rate_);
  const auto second = std::llround((seconds + kAfter) * rate_);
  const auto length = std::llround(kLength * rate_);
  if (first < 0 || second + length > std::ssize(samples_)) return 0;
  const auto part = [&](std::int64_t from) {
    return powers(samples_.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(length)));
  };
  const auto a = part(first);
  const auto b = part(second);
  const double loudest = std::max(*std::max_element(a.begin(), a.end()), *std::max_element(b.begin(), b.end()));
  double sum = 0;
  double squares = 0;
  double count = 0;
  for (std::size_t k = 0; k < a.size(); ++k) {
    if (std::max(a[k], b[k]) <= kCounts * loudest) continue;
    const double floor = 1e-3 * kCounts * loudest;
    const double change = 10 * std::log10((b[k] + floor) / (a[k] + floor));
    sum += change;
    squares += change * change;
    count += 1;
  }
  return count == 0 ? 0 : std::sqrt(std::max(0.0, squares / count - (sum / count) * (sum / count)));
}

}  // namespace ochron

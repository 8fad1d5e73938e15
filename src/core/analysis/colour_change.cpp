#include "analysis/colour_change.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>

#include "dsp/fft.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kBefore = 0.15;  // s from the beginning of what is heard before the moment
constexpr double kAfter = 0.06;   // s to the beginning of what is heard after it
constexpr double kLength = 0.11;
constexpr double kWindow = 0.042;  // s, at least half of it
constexpr double kCounts = 1e-4;   // of the loudest band
constexpr std::array<double, 10> kEdges{150, 400, 700, 1000, 1400, 1900, 2500, 3200, 4200, 5500};  // Hz
using Bands = std::array<double, kEdges.size() - 1>;

Bands powers(std::span<const float> sound, int rate) {
  RealFft fft(static_cast<int>(std::bit_floor(static_cast<unsigned>(kWindow * rate))));
  const auto size = static_cast<std::size_t>(fft.size());
  const auto window = hannWindow(fft.size());
  Bands out{};
  for (std::size_t at = 0; at + size <= sound.size(); at += size / 4) {
    for (std::size_t i = 0; i < size; ++i) fft.time()[i] = sound[at + i] * window[i];
    fft.forward();
    for (std::size_t k = 0; k < fft.bins().size(); ++k) {
      const double hz = static_cast<double>(k) * rate / static_cast<double>(size);
      const auto band = std::upper_bound(kEdges.begin(), kEdges.end(), hz) - kEdges.begin() - 1;
      if (band >= 0 && band < std::ssize(out)) out[static_cast<std::size_t>(band)] += std::norm(fft.bins()[k]);
    }
  }
  return out;
}

}  // namespace

double colourChange(std::span<const float> samples, int rate, double seconds) {
  const auto first = std::llround((seconds - kBefore) * rate);
  const auto second = std::llround((seconds + kAfter) * rate);
  const auto length = std::llround(kLength * rate);
  if (first < 0 || second + length > std::ssize(samples)) return 0;
  const auto part = [&](std::int64_t from) {
    return powers(samples.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(length)), rate);
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

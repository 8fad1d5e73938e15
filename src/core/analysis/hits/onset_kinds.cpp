#include "analysis/hits/onset_kinds.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <numbers>

namespace ochron {
namespace {

constexpr std::array<double, 4> kEdgesHz{110, 350, 1200, 4000};
using Zones = std::array<double, kEdgesHz.size() + 1>;  // sub, low, middle, upper, top

Zones powerFrom(RealFft& fft, std::span<const float> fades, std::span<const float> samples, std::int64_t at, int rate) {
  const int size = fft.size();
  for (int i = 0; i < size; ++i) {
    const auto k = at + i;
    const auto fade = fades[static_cast<std::size_t>(i)];
    fft.time()[static_cast<std::size_t>(i)] =
        k >= 0 && k < std::ssize(samples) ? samples[static_cast<std::size_t>(k)] * fade : 0.0f;
  }
  fft.forward();
  Zones z{};
  for (int k = 1; k < size / 2; ++k) {
    const double hz = static_cast<double>(k) * rate / size;
    const auto zone = std::upper_bound(kEdgesHz.begin(), kEdgesHz.end(), hz) - kEdgesHz.begin();
    z[static_cast<std::size_t>(zone)] += std::norm(fft.bins()[static_cast<std::size_t>(k)]);
  }
  return z;
}

double soft(double x, double from, double to) { return std::clamp((x - from) / (to - from), 0.0, 1.0); }

}  // namespace

double newShare(const BandFrame& before, const BandFrame& after, const BandFrame& body) {
  double fresh = 0;
  double all = 0;
  for (std::size_t b = 0; b < kFluxBands; ++b) {
    const float loudest = std::max(after[b], body[b]);
    fresh += std::max(0.0F, loudest - before[b]);
    all += loudest;
  }
  return all > 0 ? fresh / all : 0;
}

DrumGuesser::DrumGuesser(int rate)
    : rate_(rate),
      fft_(static_cast<int>(std::bit_floor(static_cast<unsigned>(rate / 23)))),
      fade_(static_cast<std::size_t>(fft_.size())) {
  for (std::size_t i = 0; i < fade_.size(); ++i)
    fade_[i] = static_cast<float>(
        0.5 + 0.5 * std::cos(std::numbers::pi * static_cast<double>(i) / static_cast<double>(fade_.size())));
}

std::array<double, 5> DrumGuesser::likeness(std::span<const float> samples, std::int64_t at) {
  auto& fft = fft_;
  const int rate = rate_;
  auto z = powerFrom(fft, fade_, samples, at, rate);
  const auto before = powerFrom(fft, fade_, samples, at - fft.size() - rate / 1000, rate);
  const auto later = powerFrom(fft, fade_, samples, at + rate / 20, rate);
  double total = 0;
  double rest = 0;
  for (std::size_t i = 0; i < z.size(); ++i) {
    z[i] = std::max(0.0, z[i] - before[i]);
    total += z[i];
    rest += std::max(0.0, later[i] - before[i]);
  }
  if (total <= 0) return {};
  for (auto& v : z) v /= total;
  const double ring = std::clamp(rest / total, 0.0, 1.0);
  const auto [sub, low, middle, upper, top] = z;
  const double bright = upper + top;
  const double metal = soft(bright, 0.45, 0.75);
  const double skin = 1 - metal;
  const double deep = soft(sub, 0.12, 0.3) * (1 - soft(middle + bright, 0.12, 0.35));
  const double rattle = soft(top + 0.5 * upper, 0.01, 0.05);
  const double dull = 1 - soft(ring, 0.08, 0.3);
  return {skin * deep, skin * (1 - deep) * (0.6 * dull + 0.4 * rattle),
          skin * (1 - deep) * (0.6 * (1 - dull) + 0.4 * (1 - rattle)), metal * (1 - soft(ring, 0.5, 0.9)),
          metal * soft(ring, 0.5, 0.9)};
}

}  // namespace ochron

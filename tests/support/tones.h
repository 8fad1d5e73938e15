#pragma once

#include <cmath>
#include <numbers>
#include <span>
#include <vector>

namespace ochron {

/// A sine at 48 kHz.
inline std::vector<float> sine(double hz, std::size_t frames, double gain = 0.5) {
  std::vector<float> out(frames);
  for (std::size_t i = 0; i < frames; ++i)
    out[i] = static_cast<float>(gain * std::sin(2 * std::numbers::pi * hz * static_cast<double>(i) / 48'000));
  return out;
}

/// Power of what sounds at one frequency, under a Hann window over all of it.
inline double powerAt(std::span<const float> s, double hertz, int rate) {
  double re = 0;
  double im = 0;
  const auto n = static_cast<double>(s.size());
  for (std::size_t i = 0; i < s.size(); ++i) {
    const auto t = static_cast<double>(i);
    const double w = 0.5 - 0.5 * std::cos(2 * M_PI * t / n);
    re += w * static_cast<double>(s[i]) * std::cos(2 * M_PI * hertz * t / rate);
    im += w * static_cast<double>(s[i]) * std::sin(2 * M_PI * hertz * t / rate);
  }
  return re * re + im * im;
}

}  // namespace ochron

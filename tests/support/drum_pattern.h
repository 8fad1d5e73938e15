#pragma once

#include <cctype>
#include <cmath>
#include <cstdint>
#include <random>
#include <string>
#include <vector>

namespace ochron::test {

inline constexpr int kPatternRate = 44'100;

/// A drum at a place: a decaying tone or a burst of noise.
inline void strike(std::vector<float>& sound, double seconds, double hertz, double level, double decay) {
  std::mt19937 dice(static_cast<unsigned>(seconds * 1000 + hertz));
  std::uniform_real_distribution<double> noise(-1, 1);
  const auto first = std::llround(seconds * kPatternRate);
  for (std::int64_t i = 0; i < kPatternRate / 2; ++i) {
    const auto at = first + i;
    if (at < 0 || at >= std::ssize(sound)) continue;
    const double t = static_cast<double>(i) / kPatternRate;
    const double body = hertz > 0 ? std::sin(2 * M_PI * hertz * t) : noise(dice);
    sound[static_cast<std::size_t>(at)] += static_cast<float>(level * std::exp(-t / decay) * body);
  }
}

/// Steps one after the other: k (kick), s (snare), h (hat), K, S (those with a hat), t (tom) or - (nothing).
inline std::vector<float> played(const std::string& steps, double step, double start) {
  std::vector<float> out(
      static_cast<std::size_t>((start + static_cast<double>(steps.size()) * step + 1) * kPatternRate), 0.0F);
  for (std::size_t i = 0; i < steps.size(); ++i) {
    const double at = start + static_cast<double>(i) * step;
    const char what = static_cast<char>(std::tolower(steps[i]));
    if (what == 'k') strike(out, at, 60, 0.8, 0.12);
    if (what == 's') strike(out, at, 0, 0.4, 0.06);
    if (what == 't') strike(out, at, 140, 0.5, 0.15);
    if (what == 'h' || what != steps[i]) strike(out, at, 0, 0.12, 0.015);
  }
  return out;
}

/// The steps of one bar again and again.
inline std::string repeated(const std::string& bar, int bars) {
  std::string out;
  for (int b = 0; b < bars; ++b) out += bar;
  return out;
}

inline std::vector<float> pattern(const std::string& bar, int bars, double step, double start) {
  return played(repeated(bar, bars), step, start);
}

}  // namespace ochron::test

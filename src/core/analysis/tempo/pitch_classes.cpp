#include "analysis/tempo/pitch_classes.h"

#include <cmath>

#include "analysis/tempo/onset_curves.h"

namespace ochron {

PitchClasses pitchClassesOf(std::span<const float> samples, int rate) {
  PitchClasses out{};
  double sum = 0;
  for (const auto& frame : chromaOf(samples, rate).frames)
    for (std::size_t i = 0; i < out.size(); ++i) {
      out[i] += static_cast<double>(frame[i]);
      sum += static_cast<double>(frame[i]);
    }
  if (sum > 0)
    for (auto& v : out) v /= sum;
  return out;
}

double keyFit(const PitchClasses& moved, int semitones, const PitchClasses& with) {
  constexpr double kMean = 1.0 / 12;
  double product = 0;
  double a = 0;
  double b = 0;
  double sound = 0;
  for (int i = 0; i < 12; ++i) {
    const double here = moved[static_cast<std::size_t>(((i - semitones) % 12 + 12) % 12)];
    const double there = with[static_cast<std::size_t>(i)];
    product += (here - kMean) * (there - kMean);
    a += (here - kMean) * (here - kMean);
    b += (there - kMean) * (there - kMean);
    sound += here * there;
  }
  return sound > 0 && a > 0 && b > 0 ? product / std::sqrt(a * b) : 0;
}

}  // namespace ochron

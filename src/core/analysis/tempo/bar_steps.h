#pragma once

#include <array>
#include <vector>

#include "analysis/tempo/beat_pattern.h"
#include "analysis/tempo/onset_curves.h"

namespace ochron {

/// A recording's beats divided into steps, those that lie within its playing, and what is heard on each of them. All
/// values are taken against their own mean and spread over the recording.
struct BarSteps {
  int division = 2;  ///< of a beat
  bool loop = false;
  int first = 0;               ///< which step the first one is, counted from some beats before the first beat on
  std::vector<double> places;  ///< seconds
  std::array<std::vector<double>, kOnsetBands> bands;
  std::vector<double> activation;
  std::vector<double> harmony;  ///< how much that of the beat from there differs from that of the beat before
  double tonal = 0;             ///< how tonal the recording is
  StepPatterns patterns;        ///< from each step to the next
  double thirds = 0;            ///< division 3: ln of what is played on thirds of a beat against on its half

  BarSteps(const OnsetCurves& curves, const Chroma& chroma, const std::vector<double>& beats, int division, bool loop);

  std::size_t size() const { return places.size(); }
  /// Hardly a bar of them.
  bool empty() const { return places.size() < 2 * static_cast<std::size_t>(division) + 1; }
};

}  // namespace ochron

#pragma once

#include <optional>
#include <span>
#include <vector>

#include "analysis/pitch.h"

namespace ochron {

/// Where the cycles of a line stop following one another though its pitch stays: a string struck, a bow set or a breath
/// taken anew begins its cycles where it likes, whatever the level does, so that for a moment two neighbouring cycles
/// are unlike. A tone that swells, beats or moves its pitch goes on cycle by cycle.
class CycleBreaks {
 public:
  /// Neighbouring cycles are compared every 2.5 ms where the track has one pitch before and after. `samples` at `rate`
  /// Hz are what the track was heard in.
  CycleBreaks(std::span<const float> samples, int rate, const PitchTrack& track);

  /// How far the least like cycles within 30 ms of a moment stand out from those 50 to 160 ms away from it, in powers
  /// of ten of what they are unlike by.
  struct Break {
    double aboveUsual;  ///< from the median of those
    double aboveMost;   ///< from the least like of those
  };
  /// None where too little about the moment has the same pitch.
  std::optional<Break> at(double seconds) const;

  /// Moments whose cycles are the least alike within 40 ms on either side, s, sorted.
  std::vector<double> places() const;

 private:
  double unlikeWithin(std::int64_t from, std::int64_t to) const;
  std::vector<double> unlike_;  // 1 less their correlation; below 0 where nothing is compared
};

}  // namespace ochron

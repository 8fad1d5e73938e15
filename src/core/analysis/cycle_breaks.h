#pragma once

#include <optional>
#include <span>
#include <vector>

#include "analysis/pitch.h"

namespace ochron {

/// How far cycles that are unlike their neighbours stand out from those 50 to 160 ms away, in powers of ten of what
/// they are unlike by. Where the cycles of a line stop following one another though its pitch stays, a note is begun
/// anew: a string struck, a bow set or a breath taken begins its cycles where it likes, whatever the level does. A tone
/// that swells, beats or moves its pitch goes on cycle by cycle.
struct CycleBreak {
  double aboveUsual = 0;  ///< from the median of those away
  double aboveMost = 0;   ///< from the least like of those

  /// What both tell, by the weight of a power of ten in each; what is far above tells no more.
  double weighed(double ofUsual, double ofMost) const;
};

/// The break within 30 ms of a moment (s) of a recording whose pitch is not known. None where it has no pitch, or not
/// the same one before and after.
std::optional<CycleBreak> cycleBreakAt(std::span<const float> samples, int rate, double seconds);

/// The breaks of a recording whose pitch is known.
class CycleBreaks {
 public:
  /// Neighbouring cycles are compared every 2.5 ms where the track has one pitch before and after. `samples` at `rate`
  /// Hz are what the track was heard in.
  CycleBreaks(std::span<const float> samples, int rate, const PitchTrack& track);

  /// Within 30 ms of a moment, s. None where too little about it has the same pitch.
  std::optional<CycleBreak> at(double seconds) const;

  /// Moments whose cycles are the least alike within 40 ms on either side, s, sorted.
  std::vector<double> places() const;

 private:
  std::vector<double> unlike_;  // 1 less their correlation; below 0 where nothing is compared
};

}  // namespace ochron

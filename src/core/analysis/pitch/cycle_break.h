#pragma once

#include <optional>
#include <span>

namespace ochron {

/// How far cycles that are unlike their neighbours stand out from those 50 to 160 ms away, in powers of ten of what
/// they are unlike by. Where the cycles of a line stop following one another though its pitch stays, a note is begun
/// anew: a string struck, a bow set or a breath taken begins its cycles where it likes, whatever the level does. A tone
/// that swells, beats or moves its pitch goes on cycle by cycle.
struct CycleBreak {
  double aboveUsual = 0;  ///< from the median of those away
  double aboveMost = 0;   ///< from the least like of those
  double at = 0;          ///< s: where they are the least alike
  double here = 0;        ///< how unlike they are there, from 0 (the same) to 1 and more
  double dipDb = 0;       ///< how far the level falls within 30 ms of it, under what it was before
  double riseDb = 0;      ///< how much louder the 50 ms after it are than those before

  /// A note is begun anew there.
  bool clear() const;
  /// What both tell, by the weight of a power of ten in each; what is far above tells no more.
  double weighed(double ofUsual, double ofMost) const;
};

/// The break within 30 ms of a moment (s). None where the recording has no pitch, or not the same one before and after.
std::optional<CycleBreak> cycleBreakAt(std::span<const float> samples, int rate, double seconds);

}  // namespace ochron

#pragma once

#include <vector>

#include "analysis/cycle_breaks.h"

namespace ochron {

/// A moment where a line may begin a note, as its hits tell it.
struct NoteOnset {
  double at = 0;       ///< s
  bool counts = true;  ///< as a hit, at the sensitivity that is set
  double sure = 1;     ///< 0 to 1
};

/// Where a note that sounds from `start` to `end` (s) is begun anew at its pitch: where its cycles break off and begin
/// again, told together with what the onsets say (by the weights of a logistic regression over lines with truth; which,
/// and what it tells of others, is in docs/figures.md). A swell, a vibrato or a beat is none. Sorted.
std::vector<double> repeatsWithin(const CycleBreaks& breaks, const std::vector<NoteOnset>& onsets, double start,
                                  double end);

}  // namespace ochron

#pragma once

#include <array>
#include <map>
#include <optional>
#include <vector>

#include "analysis/drums/between_mics.h"
#include "analysis/drums/stroke_chains.h"

namespace ochron {

/// What tells whether a drum is struck along with others: in each of three bands what the wide mics hear beyond the
/// others and how it rings on, dB / 10, and both against what is usual with these others. The first is 1.
using AlongClues = std::array<double, 13>;

/// What is struck along with drums that have mics of their own and has none itself: a tom under a kick, a crash with
/// it.
class StruckAlong {
 public:
  /// `hits`: the close strokes of every hit; they tell what is usual.
  StruckAlong(const BetweenMics& between, const std::vector<StrokeChain>& hits, int rate);

  /// A tom or a cymbal, if anything. `close`: the hit's strokes on mics of their own; `begins`: where the first mic
  /// hears it.
  std::optional<DrumClass> with(const StrokeChain& close, Frames begins) const;

  /// The clues to a tom or a cymbal in the 20 ms from a place on; none where nothing is known (BetweenMics::beyond).
  std::optional<AlongClues> clues(DrumClass drum, const StrokeChain& close, Frames from) const;

 private:
  std::optional<DrumClass> from(const StrokeChain& close, Frames at) const;
  std::optional<AlongClues> cluesIn(const BetweenMics::Beyond& heard, DrumClass drum, const StrokeChain& close) const;
  const BetweenMics& between_;
  std::map<int, BetweenMics::Beyond> usual_;  ///< by which of kick and snare are struck; -1 of all
  int rate_;
};

}  // namespace ochron

#pragma once

#include <optional>
#include <vector>

#include "time/grid.h"

namespace ochron {

/// One thing to be placed on the grid: a hit, or the main hit of a gesture.
struct Stroke {
  Frames at;            ///< song time as played
  double strength = 1;  ///< 0 to 1: weak strokes give way when two want one place
};

/// Index into `lines` for each stroke, strictly rising; none where another stroke has the better claim.
///
/// A monotonic alignment by dynamic programming (beam search over the last placed line): the cost of a place is its
/// squared distance in grid steps plus the squared change of that distance from the stroke before, which fades with the
/// time between them. So a stroke 60 % of a step late stays with its own line when its neighbours are late too.
/// `strokes` and `lines` sorted by time.
std::vector<std::optional<std::size_t>> assignToGrid(const std::vector<Stroke>& strokes,
                                                     const std::vector<GridLine>& lines);

}  // namespace ochron

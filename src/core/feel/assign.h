#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "base/units.h"

namespace ochron {

/// One thing to be placed on the grid: a hit, or the main hit of a gesture.
struct Stroke {
  Frames at;            ///< song time as played
  double strength = 1;  ///< 0 to 1: weak strokes give way when two want one place
  double step = 6'000;  ///< frames between the lines of this stroke's grid
  int grid = 0;         ///< which grid's lines it may take, 0 to 31

  bool operator==(const Stroke&) const = default;
};

/// A place that strokes of one or more grids may take.
struct GridPlace {
  Frames frame;
  std::uint32_t grids = 1;  ///< bit g: a line of grid g

  bool operator==(const GridPlace&) const = default;
};

/// Index into `places` for each stroke, strictly rising; none where another stroke has the better claim.
///
/// A monotonic alignment by dynamic programming (beam search over the last placed line): the cost of a place is its
/// squared distance in grid steps plus the squared change of that distance from the stroke before, which fades with the
/// time between them; both in steps of the stroke's own grid. So a stroke 60 % of a step late stays with its own line
/// when its neighbours are late too. `strokes` and `places` sorted by time.
std::vector<std::optional<std::size_t>> assignToGrid(const std::vector<Stroke>& strokes,
                                                     const std::vector<GridPlace>& places);

}  // namespace ochron

#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/setting.h"
#include "time/tempo_map.h"

namespace ochron {

enum class StepKind { straight, triplet, dotted };

inline constexpr SettingRange kSwingRange{"swing", "%", 50, 75, 1, 50};

/// Where hits are meant to be. Lines start anew at every bar; a step that does not fit the bar's end is dropped.
struct Grid {
  int denominator = 16;  ///< 1, 2, 4 ... 64: the note value 1/denominator
  StepKind kind = StepKind::straight;
  double swing =
      50;  ///< percent, kSwingRange: the second line of each pair stands at this part of the pair; 50 is straight

  bool operator==(const Grid&) const = default;
  Ticks step() const;
};

struct GridLine {
  Ticks at;
  Frames frame;
  int bar = 0;
  int place = 0;  ///< index within the bar

  bool operator==(const GridLine&) const = default;
};

/// "1/16", "1/8t" (triplet), "1/4d" (dotted).
Result<Grid> parseGrid(std::string_view text);
std::string toText(const Grid& grid);
/// "4/4", "7/8".
Result<Meter> parseMeter(std::string_view text);
std::string toText(Meter meter);

/// All lines with from <= line < to, in order, over meter and tempo changes.
std::vector<GridLine> gridLines(const TempoMap& map, const Grid& grid, Ticks from, Ticks to);
/// The line nearest to `t`.
GridLine nearestLine(const TempoMap& map, const Grid& grid, Ticks t);

}  // namespace ochron

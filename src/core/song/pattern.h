#pragma once

#include <string>
#include <vector>

#include "base/ids.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/clip.h"

namespace ochron {

/// A clip of a pattern, and when it is struck.
struct PatternStroke {
  Ticks at;   ///< from where the pattern begins
  Clip clip;  ///< starts at frame 0, in no bundle and no plan; strokes that play the same slice share its id

  bool operator==(const PatternStroke&) const = default;
};
using PatternStrokes = std::vector<PatternStroke>;

/// Slices of a mic set in an order and a timing of their own, under a name. It is heard where it was laid.
struct Pattern {
  PatternId id;
  std::string name;
  SetId set;
  Ticks length;                    ///< above 0
  Shared<PatternStrokes> strokes;  ///< at least one; rising, within the length

  bool operator==(const Pattern&) const = default;
};

}  // namespace ochron

#pragma once

#include <optional>

#include "base/units.h"

namespace ochron {

/// What a recording is: its tempo and where a bar begins in it.
struct SourceTempo {
  double bpm = 120;      ///< kBpmRange, of quarter notes
  Frames firstDownbeat;  ///< take time

  bool operator==(const SourceTempo&) const = default;
};

/// How far a tempo map that was heard, not set, is in doubt, and what else it may be.
struct TempoDoubt {
  double beat = 1;                      ///< 0 to 1, that its beat is the one that is felt
  double bars = 1;                      ///< 0 to 1, that its bars begin where they do
  double otherBpm = 0;                  ///< of quarter notes, the next likeliest; 0: none
  std::optional<Frames> otherBar = {};  ///< song time, where bar 1 is else the likeliest

  bool operator==(const TempoDoubt&) const = default;
};
inline constexpr double kTempoSure = 0.75;  ///< from here on there is no doubt

}  // namespace ochron

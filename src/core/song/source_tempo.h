#pragma once

#include "base/units.h"

namespace ochron {

/// What a recording is: its tempo and where a bar begins in it.
struct SourceTempo {
  double bpm = 120;      ///< kBpmRange, of quarter notes
  Frames firstDownbeat;  ///< take time

  bool operator==(const SourceTempo&) const = default;
};

}  // namespace ochron

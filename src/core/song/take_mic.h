#pragma once

#include "base/ids.h"
#include "base/units.h"

namespace ochron {

/// One mic of a take: which recording belongs to which track.
struct TakeMic {
  TrackId track;
  MediaId media;
  Frames offset;  ///< take time of the recording's first frame

  bool operator==(const TakeMic&) const = default;
};

}  // namespace ochron

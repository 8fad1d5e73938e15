#pragma once

#include <functional>
#include <vector>

#include "song/clip.h"

namespace ochron {

/// Whether two neighbouring clips are one sound that was cut and left where it was: across their joint nothing changes.
inline bool oneSound(const Clip& earlier, const Clip& later) {
  const auto& x = *earlier.extras;
  const auto& y = *later.extras;
  return earlier.take == later.take && x.media == y.media && earlier.reversed == later.reversed &&
         earlier.placed({}) == later.placed({}) && earlier.map == later.map && x.pitch == y.pitch &&
         x.formants == y.formants && x.method == y.method;
}

/// What a clip sounds like in a stretch of the song on one channel of a track; empty while that is not wholly at hand.
using PieceSound = std::function<std::vector<float>(const Clip& clip, TrackId track, int channel, FrameRange song)>;

}  // namespace ochron

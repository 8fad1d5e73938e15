#pragma once

#include <vector>

#include "song/song.h"

namespace ochron {

/// A stretch of a clip that runs at one speed.
struct EvenPiece {
  FrameRange song;
  Frames take;       ///< take time of its first frame
  double speed = 1;  ///< take frames per song frame; negative when it runs backwards
};

/// The pieces of a clip between its pins; one at speed 1 when it has none. Only what lies inside the clip.
std::vector<EvenPiece> evenPieces(const Clip& clip);

}  // namespace ochron

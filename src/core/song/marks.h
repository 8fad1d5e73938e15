#pragma once

#include <string>
#include <vector>

#include "base/ids.h"
#include "base/units.h"
#include "song/clip.h"

namespace ochron {

/// A named place of the song, or a named stretch of it (a section).
struct Marker {
  MarkerId id;
  Ticks at;
  Ticks length;  ///< 0: a place
  std::string name;
  Hold hold = Hold::grid;

  bool operator==(const Marker&) const = default;
  Ticks end() const { return at + length; }
};

/// A stretch of song that is silent on some tracks, whatever lies there. It falls silent in the last few milliseconds
/// before its start and comes back in the last few before its end, so that neither a stroke at its start is heard nor
/// one at its end is dulled.
struct MuteSpan {
  SpanId id;
  FrameRange range;  ///< song time
  std::string label;
  std::vector<TrackId> tracks;
  Hold hold = Hold::clock;

  bool operator==(const MuteSpan&) const = default;
};

/// Clips handled as one. Its own fades and gain come on top of its clips'.
struct Bundle {
  BundleId id;
  std::string name;
  Fade fadeIn;
  Fade fadeOut;
  double gainDb = 0;

  bool operator==(const Bundle&) const = default;
};

}  // namespace ochron

#pragma once

#include <vector>

#include "base/shared.h"
#include "base/units.h"

namespace ochron {

/// A point of the recording tied to a point of the stretched take.
struct Pin {
  Frames take;
  Frames stretched;

  bool operator==(const Pin&) const = default;
};

/// A stretch that runs at one speed.
struct EvenPiece {
  FrameRange range;  ///< stretched time, or song time of a clip's pieces
  Frames take;       ///< take time of its first frame
  double speed = 1;  ///< take frames per frame of the range; negative when it runs backwards
};

/// How a take is stretched before a clip shows a part of it: rising, straight between its pins, at speed 1 before the
/// first and after the last. Without pins stretched time is take time, at no cost. A clip's window and its direction
/// are the clip's own: cut, moved, slipped, trimmed or turned round, it keeps its map as it is.
class TakeMap {
 public:
  TakeMap() = default;
  explicit TakeMap(std::vector<Pin> pins) : pins_(std::move(pins)) {}

  bool identity() const { return pins_->empty(); }
  const std::vector<Pin>& pins() const { return *pins_; }
  /// Whether there are no pins, or two and more that rise on both sides.
  bool valid() const;

  /// Exact at the pins; in between to the nearest frame. Each is the other's inverse to within a frame of the coarser.
  Frames stretched(Frames take) const { return identity() ? take : toStretched(take); }
  Frames take(Frames stretched) const { return identity() ? stretched : toTake(stretched); }

  /// The pieces of a range of stretched time, in order, without holes.
  std::vector<EvenPiece> pieces(FrameRange stretched) const;

  bool operator==(const TakeMap&) const = default;

 private:
  Frames toStretched(Frames take) const;
  Frames toTake(Frames stretched) const;
  Shared<std::vector<Pin>> pins_;
};

}  // namespace ochron

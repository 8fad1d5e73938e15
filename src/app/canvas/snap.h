#pragma once

#include <QString>
#include <optional>

#include "canvas/view_state.h"
#include "document/clip_desk.h"
#include "document/document.h"

namespace ochron {

/// Finds what a drag is drawn to.
class Snapper {
 public:
  Snapper(Document& document, ViewState& view) : doc_(document), view_(view) {}

  struct Found {
    Frames at;
    QString what;  ///< "grid", "hit", "edge", "marker", "play line"
  };
  /// The nearest place within reach; edges of `moving` do not count. None while snapping is off.
  std::optional<Found> nearest(Frames at, const ChosenClips& moving = {}) const;

  struct Move {
    Frames by;
    std::optional<Found> target;
  };
  /// A move of several points by about `by`, drawn so that one of them meets a place; relative moves go by whole grid
  /// steps from the first point.
  Move move(const std::vector<Frames>& points, Frames by, const ChosenClips& moving) const;

 private:
  Document& doc_;
  ViewState& view_;
};

/// The grid line that a target or a pin dragged to `at` goes to; none within a few pixels.
std::optional<Frames> gridLineNear(Document& document, ViewState& view, Frames at);

}  // namespace ochron

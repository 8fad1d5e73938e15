#pragma once

#include "canvas/drag_context.h"
#include "canvas/gesture.h"

namespace ochron {

/// Dragging over the lanes chooses a range; in the Clips step over the tracks it touches, with the clips inside.
std::unique_ptr<Gesture> rangeDrag(DragContext context);

}  // namespace ochron

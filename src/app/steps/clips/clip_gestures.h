#pragma once

#include "canvas/drag_context.h"
#include "canvas/gesture.h"
#include "edits/fade_edits.h"

namespace ochron {

// What drags do to clips. Each keeps the song it began with and makes the whole edit anew at every move; Shift suspends
// snapping.

/// Moves the chosen clips along the song and to other tracks; copies of them when `copying`.
std::unique_ptr<Gesture> moveDrag(DragContext context, ClipId grabbed, bool copying);
/// Moves the sound inside the chosen clips.
std::unique_ptr<Gesture> slipDrag(DragContext context, ClipId grabbed);
/// Moves the chosen clips between their neighbours.
std::unique_ptr<Gesture> slideDrag(DragContext context, ClipId grabbed);
/// Moves one edge of the chosen clips.
std::unique_ptr<Gesture> trimDrag(DragContext context, ClipId grabbed, bool start);
/// Repeats the chosen clips up to the pointer.
std::unique_ptr<Gesture> repeatDrag(DragContext context, ClipId grabbed);
/// The length of a fade of all chosen clips, or of the bundle they are.
std::unique_ptr<Gesture> fadeDrag(DragContext context, ClipId grabbed, FadeEnd end);
/// Its bend.
std::unique_ptr<Gesture> bendDrag(DragContext context, ClipId grabbed, FadeEnd end);
/// A crossfade drawn out of a joint to either side: how far it reaches into the earlier or the later piece.
std::unique_ptr<Gesture> crossfadeDrag(DragContext context, ClipId later);

enum class SpanPart { body, start, end };
/// Moves a silent span, one of its edges, or a copy of it.
std::unique_ptr<Gesture> spanDrag(DragContext context, SpanId span, SpanPart part, bool copying);

}  // namespace ochron

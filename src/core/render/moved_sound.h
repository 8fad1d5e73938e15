#pragma once

#include <span>
#include <vector>

#include "render/stretched.h"
#include "tune/correction.h"

namespace ochron {

/// Where the window begins that a moved stretch of a line is made in, take time: its periods are looked for around it.
Frames windowStart(const MovedStretch& stretch, int rate);
Frames windowEnd(const MovedStretch& stretch, int rate);
/// What lies in that window, the moved sound in its place; a channel a voice.
Channels movedWindow(const Voices& voices, const PitchTrack& track, const MovedStretch& stretch);
/// Puts a window in its place in a copy of `raw`. Windows of neighbours overlap: only what a stretch moved differs from
/// the recording.
void layWindow(std::span<const float> window, Frames start, std::span<const float> raw, std::span<float> to);

}  // namespace ochron

#pragma once

#include "song/clip.h"

namespace ochron {

/// The stretch of song that holds every clip in which two lists differ; empty when they are equal.
FrameRange differing(const ClipList& a, const ClipList& b);

}  // namespace ochron

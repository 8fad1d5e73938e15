#pragma once

#include <span>
#include <vector>

#include "render/made_sound.h"

namespace ochron {

using Channels = std::vector<std::vector<float>>;  // one a voice, of equal length

/// What lies between two pins, brought to its length: the beginning is the recording itself, to the sample; only the
/// sustain is stretched: by a few jumps, the same for all voices (splicesFor), so that all else is the recording to the
/// bit, or by the engine where the change is large. One too short for both is crossfaded from the sound after `a` to
/// the sound before `b`.
Channels betweenPins(const Pin& a, const Pin& b, const Voices& voices);

/// What lies between two pins, read at another speed: pitch goes along.
Channels atSpeed(const Pin& a, const Pin& b, const Voices& voices);

}  // namespace ochron

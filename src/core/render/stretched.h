#pragma once

#include <span>
#include <vector>

#include "dsp/stream_stretch.h"
#include "render/made_sound.h"

namespace ochron {

using Channels = std::vector<std::vector<float>>;  // one a voice, of equal length

/// What lies between two pins, brought to its length: the beginning is the recording itself, to the sample; only the
/// sustain is stretched: by a few jumps, the same for all voices (splicesFor), so that all else is the recording to the
/// bit, or by the engine where the change is large. One too short for both is crossfaded from the sound after `a` to
/// the sound before `b`. False when the sink has ended it.
bool betweenPins(const Pin& a, const Pin& b, const Voices& voices, const StreamSink& to);

/// What lies between two pins, read at another speed: pitch goes along.
bool atSpeed(const Pin& a, const Pin& b, const Voices& voices, const StreamSink& to);

}  // namespace ochron

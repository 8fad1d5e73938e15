#pragma once

#include <span>

#include "render/stretched.h"

namespace ochron {

/// What lies between the first and the last of some pins, in one run of the phase vocoder that meets the pins on its
/// way; it begins and ends on the recording, and the attacks next to pins are the recording itself. What is too short
/// for it is made as betweenPins() does. False when the sink has ended it.
bool throughPins(std::span<const Pin> pins, const Voices& voices, const StreamSink& to);

}  // namespace ochron

#pragma once

#include <vector>

#include "score.h"

namespace ochron::demo {

/// A sung line: glottal pulses with breath through five formants, with scoops, vibrato and the odd pitch.
std::vector<float> sing(const std::vector<Note>& notes, std::size_t frames);

}  // namespace ochron::demo

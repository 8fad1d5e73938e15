#pragma once

#include <vector>

#include "effects/effect_info.h"

namespace ochron::test {

/// Makes this process find the program's effects, the faulty one of the tests, and those of this machine.
void findEffectsHere();
/// These effects.
const std::vector<EffectInfo>& effectsHere();

}  // namespace ochron::test

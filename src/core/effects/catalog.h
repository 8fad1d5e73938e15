#pragma once

#include <filesystem>
#include <vector>

#include "base/result.h"
#include "effects/effect_info.h"
#include "song/effect_state.h"

namespace ochron {

/// The program that plays effects, beside the running one or where it is installed.
Result<std::filesystem::path> effectsProgram();

/// All effects of this machine, by name. They are looked at in a process of their own: a plug-in that ends it costs a
/// sentence.
Result<std::vector<EffectInfo>> listEffects();

/// What an effect holds beside its controls once a preset was chosen; none where that is nothing. The preset is tried
/// in a process of its own. Fails when that ends or hangs.
Result<EffectState> stateOf(const EffectInfo& effect, const EffectPreset& preset);

}  // namespace ochron

#pragma once

#include <string>
#include <vector>

#include "media/pool.h"
#include "render/made_store.h"
#include "render/racks.h"
#include "render/render_plan.h"

namespace ochron {

/// A song ready to be written: all its sound made, its effects at work.
struct WholeSound {
  MediaPool tuned;                   ///< recordings with pitch plans carried out
  RenderPlan plan;                   ///< through effects that play
  std::vector<std::string> missing;  ///< names of effects that this machine does not have: sound goes past them

  /// Fails when something that was read has changed meanwhile: what was written of it must not be kept.
  Result<void> holds(const MediaPool& recordings, const MadeStore& made) const;
};

/// The same past all effects. `from`: where sound is made first. Fails when it is cancelled and when sound cannot be
/// made.
Result<WholeSound> drySound(const Song& song, const MediaPool& recordings, MadeStore& made, Frames from,
                            Progress& progress);
/// Fails when an effect does not start, too.
Result<WholeSound> wholeSound(const Song& song, const MediaPool& recordings, MadeStore& made, Frames from,
                              Progress& progress);

/// "Reverb and Echo are not on this machine: sound went past them."; empty when none is missing.
std::string missingEffects(const std::vector<std::string>& names);

}  // namespace ochron

#pragma once

#include <filesystem>
#include <vector>

#include "base/progress.h"
#include "files/outputs.h"
#include "media/pool.h"
#include "render/render_plan.h"
#include "song/print.h"

namespace ochron {

/// One file of a print as it is written: 32-bit float, so that nothing is lost, whatever its level.
struct PrintTarget {
  PrintRow row;
  std::filesystem::path file;
};
/// Files in a folder that nothing has yet, named for their tracks.
std::vector<PrintTarget> printTargets(const std::vector<PrintRow>& rows, const std::filesystem::path& folder);

/// Writes what is heard of tracks in stretches of song (`plan` has nothing missing), or recordings cut to what is used,
/// as some of `outputs`. A clip's print has the clips alone; a track's also the track's silent spans, envelopes, gain
/// and pan, without mute and solo and the song's gain.
Result<void> writePrints(const std::vector<PrintTarget>& targets, const RenderPlan& plan, const MediaPool& recordings,
                         Outputs& outputs, Progress& progress);

}  // namespace ochron

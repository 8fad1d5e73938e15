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

/// A file that was printed, and what it was printed as.
struct PrintedRow {
  PrintRow row;
  MediaId media;
};
/// How far a print is from what it would be now.
struct PrintDifference {
  float peak = 0;  ///< of the difference, full scale
  Frames at;       ///< song time: where
};
/// `plan`: of the song in which all that was printed is alive (asPrinted()), nothing missing.
Result<PrintDifference> differenceFrom(const std::vector<PrintedRow>& prints, const RenderPlan& plan,
                                       const MediaPool& recordings, Progress& progress);

}  // namespace ochron

#pragma once

#include <filesystem>
#include <vector>

#include "base/progress.h"
#include "files/outputs.h"
#include "media/pool.h"
#include "render/plan.h"

namespace ochron {

/// One file of a print as it is written: 32-bit float, so that nothing is lost, whatever its level; a trim in the
/// depth of its recording.
struct PrintTarget {
  PrintDepth depth = PrintDepth::clip;
  TrackId track;
  int channels = 1;
  FrameRange range;  ///< song time; of a trim: frames of the recording
  MediaId media;     ///< of a trim
  std::filesystem::path file;
};

/// Writes what is heard of tracks in stretches of song (`plan` has nothing missing), or recordings cut to what is used,
/// as some of `outputs`. A clip's print has the clips alone; a track's also the track's silent spans, envelopes, gain
/// and pan, without mute and solo and the song's gain.
Result<void> writePrints(const std::vector<PrintTarget>& targets, const RenderPlan& plan, const MediaPool& recordings,
                         Outputs& outputs, Progress& progress);

}  // namespace ochron

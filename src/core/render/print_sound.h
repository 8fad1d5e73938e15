#pragma once

#include <filesystem>
#include <vector>

#include "base/progress.h"
#include "files/outputs.h"
#include "media/audio_file.h"
#include "media/pool.h"
#include "render/render_plan.h"
#include "song/print.h"

namespace ochron {

SampleFormat formatOf(PrintSamples samples);
/// Bytes of one sample in a file.
int bytesOf(SampleFormat samples);

/// How a file of a print is written, once its sound is known.
struct PrintLevel {
  float peak = 0;  ///< of what is heard, full scale; 0 where nothing hangs on it
  double gainDb = 0;
  PrintSamples samples = PrintSamples::float32;  ///< float where others would lose what is over full scale
};
/// Row by row. Only where the manner asks for a level, or for samples that end at full scale, is the sound gone
/// through. All mics of a stretch get one gain.
Result<std::vector<PrintLevel>> printLevels(const std::vector<PrintRow>& rows, const RenderPlan& plan,
                                            const MediaPool& recordings, Progress& progress);

/// One file of a print as it is written.
struct PrintTarget {
  PrintRow row;
  std::filesystem::path file;
  PrintLevel level;
};
/// Files in a folder that nothing has yet, named for their tracks.
std::vector<PrintTarget> printTargets(const std::vector<PrintRow>& rows, const std::vector<PrintLevel>& levels,
                                      const std::filesystem::path& folder);

/// Writes what is heard of tracks in stretches of song (`plan` has nothing missing), or recordings cut to what is used,
/// as some of `outputs`. A clip's print has the clips alone; a track's also the track's silent spans, envelopes, gain
/// and pan, without mute and solo and the song's gain.
Result<void> writePrints(const std::vector<PrintTarget>& targets, const RenderPlan& plan, const MediaPool& recordings,
                         Outputs& outputs, Progress& progress);

/// A file that was printed, and what it was printed as.
struct PrintedRow {
  PrintRow row;
  MediaId media;
  double levelDb = 0;  ///< by which it is louder than what it was made of
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

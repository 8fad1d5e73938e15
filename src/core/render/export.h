#pragma once

#include <filesystem>
#include <optional>
#include <vector>

#include "base/progress.h"
#include "media/audio_file.h"
#include "render/export_stems.h"
#include "render/loudness_meter.h"
#include "render/render_plan.h"

namespace ochron {

/// How an export runs: at the song's speeds, as far as the export has them.
struct ExportSpeed {
  Envelope speed;  ///< percent; none: as it is
  bool keepsPitch = false;
};
ExportSpeed exportSpeed(const Song& song);
/// What an export of a range comes to, in frames of the song's rate.
Frames playedLength(const Song& song, FrameRange range);

/// What bringing an export to a loudness came to.
struct ExportLoudness {
  LoudnessReport before;    ///< of the mix as it is
  double asked = 0;         ///< LUFS
  double gainDb = 0;        ///< of every file
  bool heldByPeak = false;  ///< less than asked for: the true peak would have passed kTruePeakCeiling
};
/// dBTP, where raising an export's loudness ends (EBU R 128).
inline constexpr double kTruePeakCeiling = -1;

struct ExportReport {
  std::vector<std::filesystem::path> files;
  std::int64_t clippedSamples = 0;
  bool tempoTold = true;  ///< false: a file's tags could not take tempo or chapters; the sound is whole
  std::optional<ExportLoudness> loudness;
};

/// How loud the mix of a range is, as it would be exported: in stereo, or as both sides' mean. Fails when it is
/// cancelled.
Result<LoudnessReport> measureMix(const Song& song, const RenderPlan& plan, FrameRange range, bool mono,
                                  Progress& progress);
/// The gain that brings it to `asked` LUFS, or as near as its true peak lets it come; 0 when it is silent.
ExportLoudness toLoudness(const LoudnessReport& mix, double asked);

/// Writes what exportStems() lists, as some of `outputs`: the files appear with its commit(). Mixes have the song's
/// markers and section starts as cue points or chapters; files tell the song's tempo when it is one and runs as
/// recorded.
Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& settings,
                                const std::filesystem::path& target, Outputs& outputs, Progress& progress);

/// Writes one track's sound (mono or stereo) to `target` at a speed, as exportSong
/// does. Samples that were beyond full scale.
Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const ExportSpeed& speed, const std::filesystem::path& target, const WriteNotes& notes,
                                 Outputs& outputs, Progress& progress);

}  // namespace ochron

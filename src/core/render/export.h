#pragma once

#include <filesystem>
#include <map>
#include <vector>

#include "base/progress.h"
#include "media/audio_file.h"
#include "render/plan.h"

namespace ochron {

enum class ExportWhat { mix, tracks };

struct ExportSettings {
  ExportWhat what = ExportWhat::mix;
  FileFormat format = FileFormat::wav;
  SampleFormat samples = SampleFormat::pcm24;
  FrameRange range;    ///< song time
  bool midi = false;   ///< beside it a MIDI file: tempo map, meters, markers, hits and notes
  bool click = false;  ///< beside it the click as a sound file
};

/// How an export runs: at the song's speeds, as far as the export has them.
struct ExportSpeed {
  Envelope speed;  ///< percent; none: as it is
  bool keepsPitch = false;
};
ExportSpeed exportSpeed(const Song& song);
/// What an export of a range comes to.
Frames playedLength(const Song& song, FrameRange range);

struct ExportReport {
  std::vector<std::filesystem::path> files;
  std::int64_t clippedSamples = 0;
  bool tempoTold = true;  ///< false: a file's tags could not take it; the sound is whole
};

/// The files of an export of tracks in the folder `target`, under names of their own.
std::map<TrackId, std::filesystem::path> trackFiles(const Song& song, const ExportSettings& settings,
                                                    const std::filesystem::path& target);

/// Writes the mix to the file `target`, or each track (without mixer gain and pan and the song's gain envelope) to the
/// folder `target` under its name, as some of `outputs`: they appear with its commit(). The mix as a WAV file has the
/// song's markers and section starts as cue points; WAV files tell the song's tempo when it is one and runs as
/// recorded.
Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& settings,
                                const std::filesystem::path& target, Outputs& outputs, Progress& progress);

/// Writes one track's sound (mono or stereo) to `target` at a speed, as exportSong
/// does. Samples that were beyond full scale.
Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const ExportSpeed& speed, const std::filesystem::path& target, const WriteNotes& notes,
                                 Outputs& outputs, Progress& progress);

}  // namespace ochron

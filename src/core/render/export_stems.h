#pragma once

#include <array>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/setting.h"
#include "media/audio_file.h"
#include "song/song.h"

namespace ochron {

enum class ExportWhat {
  mix,       ///< one file
  tracks,    ///< a file for each track, without mixer gain and pan and the song's gain envelope
  sets,      ///< a file for each mic set with its tracks side by side, likewise
  sections,  ///< a mix for each section; without sections, from marker to marker
  clips  ///< each clip that is not muted, from its beginning to its end, as heard on the tracks of its set, likewise
};
inline constexpr std::array<std::string_view, 5> kExportWhatNames{"mix", "tracks", "sets", "sections", "clips"};
/// What keeps the tracks of a set side by side in one file, and so is never mono.
constexpr bool keepsMics(ExportWhat what) { return what == ExportWhat::sets || what == ExportWhat::clips; }

inline constexpr SettingRange kQualityRange{"quality", "%", 0, 100, 5, 90};
inline constexpr SettingRange kLoudnessRange{"loudness", "LUFS", -40, -5, 0.5, -14};

struct ExportSettings {
  ExportWhat what = ExportWhat::mix;
  FileFormat format = FileFormat::wav;
  std::vector<FileFormat> also;  ///< further formats of the same sound
  SampleFormat samples = SampleFormat::pcm24;
  bool dither = false;                      ///< of 16 and 24 bits
  double quality = kQualityRange.fallback;  ///< of packed formats
  int rate = 0;       ///< Hz; 0: the song's. A format that cannot have it has the nearest that it can
  bool mono = false;  ///< both sides' mean; not where mics are kept
  std::string names;  ///< a pattern for names (kNameWords); empty: what fits. The one mix has the target's name
  FrameRange range;   ///< song time
  double tailSeconds = kTailRange.fallback;  ///< how long effects ring on after the end of each file's sound
  ClipIds clips;                             ///< of clips: only these; none: all that begin in the range
  std::optional<double> loudness;            ///< LUFS that the mix is brought to; the same gain for every file
  bool midi = false;                         ///< beside it a MIDI file: tempo map, meters, markers, hits and notes
  bool click = false;                        ///< beside it the click as a sound file
};

/// What a pattern for names may hold, in braces.
inline constexpr std::array<std::string_view, 8> kNameWords{"song", "track",  "set",   "section",
                                                            "clip", "number", "tempo", "rate"};

struct ExportFile {
  FileFormat format = FileFormat::wav;
  std::filesystem::path file;
};

/// One sound of an export, with the files that it goes into.
struct ExportStem {
  std::vector<TrackId> tracks;  ///< side by side; none: the mix
  FrameRange range;             ///< of the song that is heard
  int channels = 2;
  std::vector<ExportFile> files;
  Frames tail = {};  ///< after it

  FrameRange whole() const { return {range.start, range.end + tail}; }
};

/// What an export writes, in order: `target` is the file of a mix, and a folder otherwise. Fails when there is nothing
/// to write and when the pattern for names is none.
Result<std::vector<ExportStem>> exportStems(const Song& song, const ExportSettings& settings,
                                            const std::filesystem::path& target);

/// What a file of an export is like.
WriteFormat formatOf(const ExportSettings& settings, const ExportStem& stem, FileFormat format, int songRate);

/// Channels of a track as it is exported, 1 or 2.
int channelsOf(const Song& song, TrackId track);

}  // namespace ochron

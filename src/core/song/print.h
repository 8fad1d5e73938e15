#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/shared.h"
#include "base/units.h"
#include "song/clip.h"
#include "song/envelope.h"
#include "song/insert.h"
#include "song/marks.h"
#include "song/tuning.h"

namespace ochron {

/// How deep something is committed to audio.
enum class PrintDepth {
  trim,   ///< of the recordings only what is used is kept, with handles; every edit stays
  clip,   ///< timing, stretch, pitch, fades and clip gain become audio; the mixer stays
  track,  ///< the track's gain, pan and envelopes too
};
inline constexpr std::array<std::string_view, 3> kPrintDepthNames{"trim", "clip", "track"};

/// How the samples of a print are kept.
enum class PrintSamples {
  float32,  ///< nothing is lost, whatever its level
  pcm24,    ///< with dither, as in 16 bits; float where it would be over full scale
  pcm16,
};
inline constexpr std::array<std::string_view, 3> kPrintSamplesNames{"float", "24", "16"};

inline constexpr SettingRange kPrintPeakRange{"peak", "dB", -24, 0, 0.5, -1};
inline constexpr SettingRange kTailRange{"tail", "s", 0, 60, 0.5, 0};

/// How a print is written.
struct PrintManner {
  PrintSamples samples = PrintSamples::float32;
  /// Full scale: where the level is brought to, all mics of a stretch alike; the gain of the printed clip makes up for
  /// it. None: the level stays. Not of a trim.
  std::optional<double> peakDb;
  double tailSeconds = kTailRange.fallback;  ///< of tracks: how long effects ring on after the last clip

  /// Whatever is heard, it is written as it is.
  bool asHeard() const { return samples == PrintSamples::float32 && !peakDb; }

  bool operator==(const PrintManner&) const = default;
};

/// A track's mixer as it was before it was printed.
struct MixerBefore {
  TrackId track;
  double gainDb = 0;
  double pan = 0;
  Shared<Envelope> gain;
  Shared<Envelope> panning;
  Shared<Envelope> mute;
  Shared<InsertList> inserts;

  bool operator==(const MixerBefore&) const = default;
};

/// A mic of a take as it was before its recording was trimmed, and what stands in its place.
struct TrimmedMic {
  TakeId take;
  TrackId track;
  MediaId was;
  Frames offset;
  MediaId now;

  bool operator==(const TrimmedMic&) const = default;
};

/// What the sound of a print hung on besides its clips, when it was made.
struct PrintedWith {
  struct Recording {
    MediaId media;
    std::string fingerprint;

    bool operator==(const Recording&) const = default;
  };
  Shared<PitchPlan> pitch;              ///< as far as it reached what was printed
  std::int64_t notes = 0;               ///< of the notes that it moved: told from others by it
  std::optional<StretchMethod> method;  ///< of the set, of clips that had none of their own
  std::vector<Recording> recordings;    ///< in order of their ids

  bool operator==(const PrintedWith&) const = default;
};

/// What something printed was made of: taken back at any time, it is alive again.
struct Print {
  PrintId id;
  PrintDepth depth = PrintDepth::clip;
  SetId set;
  TakeId take;                      ///< what was printed; none of a trim
  Frames start;                     ///< song time of the print's first frame when it was made
  Shared<ClipList> clips;           ///< what it was made of, in its place
  std::vector<Bundle> bundles;      ///< that these clips were in
  std::vector<MixerBefore> mixer;   ///< of a track's print
  Shared<InsertList> inserts;       ///< likewise: of the set
  std::vector<TrimmedMic> trimmed;  ///< of a trim
  std::optional<PrintedWith> with;  ///< none of a trim, and of what earlier versions of the program printed
  PrintManner manner;
  double levelDb = 0;             ///< by which the printed sound is louder than what was heard
  std::optional<Clip> cutBefore;  ///< that its start was cut out of: joined again when it is taken back
  std::optional<Clip> cutAfter;

  bool operator==(const Print&) const = default;
};

/// One file that a print writes, and what it will hold: what is said before anything is done.
struct PrintRow {
  PrintDepth depth = PrintDepth::clip;
  SetId set;
  TrackId track;
  std::string name;  ///< of the file, without folder and ending
  int channels = 1;
  FrameRange range = {};  ///< song time, with its tail; of a trim: frames of the recording
  TakeId take = {};       ///< of a trim
  MediaId media = {};     ///< of a trim: the recording
  PrintManner manner = {};
  std::optional<Clip> cutBefore = {};  ///< as in Print
  std::optional<Clip> cutAfter = {};
};

}  // namespace ochron

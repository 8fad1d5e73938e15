#pragma once

#include "edits/clip_edits.h"
#include "takes/silence.h"

namespace ochron {

inline constexpr SettingRange kNudgeMsRange{"nudge by", "ms", 0.1, 1000, 0.1, 10};
inline constexpr SettingRange kNudgeSamplesRange{"nudge by", "samples", 1, 48'000, 1, 1};
inline constexpr SettingRange kSnapReachRange{"snap within", "px", 1, 40, 1, 8};
inline constexpr SettingRange kSongFadeRange{"fade of the song", "s", 0, 60, 0.1, 4};

/// What a drag is drawn to, and from how far.
struct SnapSettings {
  bool on = true;
  bool grid = true;
  bool hits = true;
  bool edges = true;
  bool markers = true;
  bool playLine = true;
  bool relative = false;  ///< moves by whole grid steps; keeps the offset from the grid
  double reachPixels = kSnapReachRange.fallback;

  bool operator==(const SnapSettings&) const = default;
};

/// How edits by hand behave; kept for the user, not with the song.
struct HandSettings {
  double cutFadeMs = kCutFadeRange.fallback;
  Overlap overlap = Overlap::crossfade;
  bool closeGaps = false;  ///< what follows moves along when something is deleted or trimmed
  double nudgeMs = kNudgeMsRange.fallback;
  double nudgeSamples = kNudgeSamplesRange.fallback;
  double songFadeSeconds = kSongFadeRange.fallback;
  SnapSettings snap;
  SilenceSettings silence;

  bool operator==(const HandSettings&) const = default;
};

inline constexpr std::array kHandNumbers{
    Setting<HandSettings>{&HandSettings::cutFadeMs, kCutFadeRange, "cut fade ms", "fades where a clip is cut", {}},
    Setting<HandSettings>{&HandSettings::nudgeMs, kNudgeMsRange, "nudge ms", "how far a nudge in ms moves", {}},
    Setting<HandSettings>{
        &HandSettings::nudgeSamples, kNudgeSamplesRange, "nudge samples", "how far a nudge in samples moves", {}},
    Setting<HandSettings>{
        &HandSettings::songFadeSeconds, kSongFadeRange, "song fade s", "a fade of the whole song", {}},
};
inline constexpr std::array kSnapNumbers{
    Setting<SnapSettings>{
        &SnapSettings::reachPixels, kSnapReachRange, "snap reach px", "from how far a drag is drawn to something", {}},
};

HandSettings readHandSettings();
void keepHandSettings(const HandSettings& settings);

}  // namespace ochron

#pragma once

#include <cmath>
#include <cstddef>
#include <string_view>

#include "base/setting.h"
#include "base/text.h"
#include "base/units.h"

/// How far the values of a song may go, one place for each kind of thing. Rules (brokenRules), the reader of song
/// files, edits and typed fields use these; numbers of settings have theirs where they are described (Setting).
namespace ochron {

inline constexpr Frames kFarthest{std::int64_t{1} << 35};     ///< either way: a day at 384 kHz, eight at 48
inline constexpr Ticks kFarthestTick{std::int64_t{1} << 43};  ///< either way: as far at 999 BPM
inline constexpr Frames kLongestSeamChoice{10'000'000};       ///< a lead-in or length decided for one seam
inline constexpr std::size_t kLongestText = 16'384;           ///< bytes of UTF-8
inline constexpr int kMostColours = 1'000'000;
inline constexpr int kMostChannels = 64;
inline constexpr int kMostBars = 1'000'000;  ///< a meter's place, either way

inline constexpr std::size_t kMostClips = 2'000'000;   ///< in a set
inline constexpr std::size_t kMostHits = 2'000'000;    ///< in a take, for a set
inline constexpr std::size_t kMostPoints = 1'000'000;  ///< of an envelope, a clip's pins, tempos
inline constexpr std::size_t kMostMarks = 100'000;     ///< markers, silent spans, bundles, locks, gaps, meters, media
inline constexpr std::size_t kMostDecisions = 1'000'000;  ///< about hits, notes, checks
inline constexpr std::size_t kMostTracks = 10'000;        ///< tracks, sets, takes, grooves, grid rules
inline constexpr std::size_t kMostMembers = 1024;         ///< tracks of a set, a span, a take; guides
inline constexpr std::size_t kMostStrokes = 64;           ///< of a hit
inline constexpr std::size_t kMostHearers = 256;          ///< guides that heard a hit
inline constexpr std::size_t kMostSounds = 4096;          ///< of a layer
inline constexpr std::size_t kMostPlaces = 4096;          ///< of a groove
inline constexpr std::size_t kMostScatter = 64;           ///< at each of them
inline constexpr std::size_t kMostPitches = 4'000'000;    ///< values of a line: five and a half hours

inline constexpr SettingRange kSongRateRange{"rate", "Hz", 8'000, 384'000, 1, 48'000};
inline constexpr SettingRange kFileRateRange{"file rate", "Hz", 1'000, 768'000, 1, 48'000};
inline constexpr SettingRange kShareRange{"share", "", 0, 1, 0.01, 0};  ///< strengths, confidences, probabilities
inline constexpr SettingRange kUnitRange{"bend", "", -1, 1, 0.01, 0};   ///< bends and biases of fades
inline constexpr SettingRange kGroovePlaceRange{"groove place", "ms", -15'000,
                                                15'000,         0.1,  0};  ///< half a bar at 10 BPM
inline constexpr SettingRange kSungHertzRange{"pitch", "Hz", 0, 20'000, 0.01, 0};
inline constexpr SettingRange kNoteHertzRange{"pitch", "Hz", 1, 20'000, 0.01, 440};
inline constexpr SettingRange kNoteSecondsRange{"time", "s", 0, 1e6, 0.001, 0};
inline constexpr SettingRange kNoteTargetRange{"note", "c", -12'000, 24'000, 1, 0};  ///< cents above 1 Hz
inline constexpr SettingRange kOctaveRange{"octave", "c", 1, 12'000, 1, 1200};

constexpr bool within(Frames f) { return f >= -kFarthest && f <= kFarthest; }
constexpr bool within(Ticks t) { return t >= -kFarthestTick && t <= kFarthestTick; }
/// A text that can be kept: UTF-8, and not longer than kLongestText.
constexpr bool within(std::string_view text) { return text.size() <= kLongestText && isUtf8(text); }

}  // namespace ochron

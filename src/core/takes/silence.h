#pragma once

#include <array>
#include <vector>

#include "base/setting.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

inline constexpr SettingRange kSilenceLevelRange{"silent below", "dB", -90, -10, 1, -48};
inline constexpr SettingRange kSilenceLengthRange{"for at least", "ms", 20, 10'000, 10, 250};
inline constexpr SettingRange kSilencePadRange{"leave around sound", "ms", 0, 500, 5, 20};

/// What counts as a silent gap.
struct SilenceSettings {
  double levelDb = kSilenceLevelRange.fallback;    ///< of peaks, against full scale
  double lengthMs = kSilenceLengthRange.fallback;  ///< at least this long, pads taken off
  double padMs = kSilencePadRange.fallback;        ///< of silence that stays with the sound on either side

  bool operator==(const SilenceSettings&) const = default;
};

inline constexpr std::array kSilenceNumbers{
    Setting<SilenceSettings>{
        &SilenceSettings::levelDb, kSilenceLevelRange, "silent below db", "what stays below this is silence", {}},
    Setting<SilenceSettings>{
        &SilenceSettings::lengthMs, kSilenceLengthRange, "silent for ms", "shorter gaps are left alone", {}},
    Setting<SilenceSettings>{
        &SilenceSettings::padMs, kSilencePadRange, "silence pad ms", "of the gap, on either side", {}},
};

/// The stretches of song in which every mic of a set is silent, inside its clips; sorted, to within 64 frames (the
/// finest peaks). Where a mic has no recording it is silent.
std::vector<FrameRange> silentGaps(const Song& song, SetId set, const MediaPool& pool, const SilenceSettings& settings);

}  // namespace ochron

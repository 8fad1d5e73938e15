#pragma once

#include <optional>
#include <span>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "base/setting.h"
#include "terms/sung.h"

namespace ochron {

inline constexpr SettingRange kLowestPitchRange{"lowest pitch", "Hz", 20, 400, 1, 30};
inline constexpr SettingRange kHighestPitchRange{"highest pitch", "Hz", 100, 4000, 1, 2400};

inline constexpr double kPitchShare = 0.8;  ///< of the work of hearing a line

struct PitchSettings {
  double lowest = kLowestPitchRange.fallback;
  double highest = kHighestPitchRange.fallback;
};

/// Fundamental frequency by probabilistic candidates and a path through them (pYIN, Mauch & Dixon 2014). Where one note
/// rings into the next, the undertone that both have in common is taken for neither. Reports up to `kPitchShare`: its
/// notes follow (notes.h). Fails only when cancelled.
Result<PitchTrack> pitchOf(std::span<const float> samples, int rate, const PitchSettings& settings, Progress& progress);

/// The one pitch of a short stretch (0.1 s or longer), Hz: the median of what sounds; none when less than half does.
std::optional<double> pitchOfMoment(std::span<const float> samples, int rate, const PitchSettings& settings = {});

}  // namespace ochron

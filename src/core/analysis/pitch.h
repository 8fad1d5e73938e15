#pragma once

#include <cmath>
#include <span>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "base/setting.h"

namespace ochron {

inline constexpr SettingRange kLowestPitchRange{"lowest pitch", "Hz", 20, 400, 1, 40};
inline constexpr SettingRange kHighestPitchRange{"highest pitch", "Hz", 100, 4000, 1, 1400};

struct PitchSettings {
  double lowest = kLowestPitchRange.fallback;
  double highest = kHighestPitchRange.fallback;
};

/// A pitch in cents above 1 Hz.
inline double centsOf(double hertz) { return 1200 * std::log2(hertz); }

/// The pitch of a single line, 200 values a second.
struct PitchTrack {
  static constexpr double kHop = 0.005;  ///< s
  struct Value {
    double hertz = 0;   ///< the likeliest, also where it is hardly voiced; 0 where there is none
    double voiced = 0;  ///< probability

    bool sounds() const { return voiced >= 0.5 && hertz > 0; }
    bool operator==(const Value&) const = default;
  };
  std::vector<Value> values;

  bool operator==(const PitchTrack&) const = default;
};

/// Fundamental frequency by probabilistic candidates and a path through them (pYIN, Mauch & Dixon 2014). Where one note
/// rings into the next, the undertone that both have in common is taken for neither. Fails only when cancelled.
Result<PitchTrack> pitchOf(std::span<const float> samples, int rate, const PitchSettings& settings, Progress& progress);

}  // namespace ochron

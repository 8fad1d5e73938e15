#pragma once

#include <cstdint>
#include <vector>

#include "base/drum_class.h"
#include "base/ids.h"
#include "base/setting.h"
#include "base/units.h"

namespace ochron {

enum class HitOrigin {
  detected,
  user,     ///< added or corrected by hand: survives a new detection and any sensitivity
  removed,  ///< taken away by hand: stays away after a new detection
};

/// One onset in take time.
struct Hit {
  HitId id;
  Frames at;              ///< where the attack begins
  double strength = 0;    ///< 0 to 1, against the loudest hits of its guide
  double confidence = 0;  ///< 0 to 1
  DrumClass drum = DrumClass::other;
  std::vector<TrackId> heardBy;  ///< the clearest guide first
  HitOrigin origin = HitOrigin::detected;

  bool operator==(const Hit&) const = default;
};

/// Sorted by time.
using HitList = std::vector<Hit>;

inline constexpr SettingRange kSensitivityRange{"sensitivity", "%", 0, 100, 1, 50};
inline constexpr SettingRange kMinSpacingRange{"minimum spacing", "ms", 5, 500, 1, 30};

/// What counts as a hit. Turning these only filters what detection found.
struct HitSettings {
  double sensitivity = kSensitivityRange.fallback;
  double minSpacingMs = kMinSpacingRange.fallback;

  bool operator==(const HitSettings&) const = default;
};

/// The lowest strength that counts at a sensitivity: 1 at 0 %, 0.05 at the default, 0 at 100 %.
double strengthThreshold(double sensitivity);
/// The hits that count, sorted. What the user placed always counts; what the user removed never does.
HitList activeHits(const HitList& all, const HitSettings& settings, int rate);

}  // namespace ochron

#pragma once

#include <array>
#include <vector>

#include "base/result.h"
#include "base/setting.h"
#include "time/tempo_map.h"

namespace ochron {

/// A bar or beat of the song tied to a place of the clock, usually to a hit of a recording.
struct TempoAnchor {
  Ticks at;
  Frames frame;

  bool operator==(const TempoAnchor&) const = default;
};

inline constexpr SettingRange kAnchorWithinRange{"every anchor within", "ms", 0, 50, 0.5, 0};
inline constexpr SettingRange kAnchorSmoothRange{"smooth", "%", 0, 100, 5, 0};

/// How a tempo map is made of anchors.
struct AnchorSettings {
  double withinMs = kAnchorWithinRange.fallback;  ///< the fewest tempo events that keep anchors so near; 0: all of them
  double smooth = kAnchorSmoothRange.fallback;    ///< how far the tempo between anchors is evened out first
  bool ramps = false;                             ///< the tempo glides from anchor to anchor instead of jumping

  bool operator==(const AnchorSettings&) const = default;
};

inline constexpr std::array kAnchorNumbers{
    Setting<AnchorSettings>{&AnchorSettings::withinMs,
                            kAnchorWithinRange,
                            "within ms",
                            "the fewest tempo changes that hold them; 0: all",
                            {}},
    Setting<AnchorSettings>{
        &AnchorSettings::smooth, kAnchorSmoothRange, "smooth", "evens the tempo out; anchors give way", {}},
};

/// Anchors in order, at most one at a place: each later in the song than the one before it and later on the clock.
using TempoAnchors = std::vector<TempoAnchor>;

/// The tempo map through anchors. Between two of them time is even; before the first and after the last the tempo goes
/// on as it is there. One anchor alone moves the tempo map `around` to it. Meters are those of `around`. Fails when a
/// tempo would be outside kBpmRange, with a sentence that names the bars.
Result<TempoMap> mapThrough(const TempoAnchors& anchors, const AnchorSettings& settings, const TempoMap& around);

}  // namespace ochron

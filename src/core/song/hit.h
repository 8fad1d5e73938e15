#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/units.h"
#include "terms/drum_class.h"

namespace ochron {

enum class HitOrigin {
  detected,
  user,     ///< added or corrected by hand: survives a new detection and any sensitivity
  removed,  ///< taken away by hand: stays away after a new detection
};

/// One guide that heard a hit.
struct Heard {
  TrackId track;
  double strength = 0;  ///< 0 to 1, how surely it is a stroke there: 0.05 counts at the default sensitivity

  bool operator==(const Heard&) const = default;
};

/// One drum of a hit.
struct DrumStroke {
  Frames at;  ///< take time where its attack begins
  DrumClass drum = DrumClass::other;
  double strength = 0;  ///< 0 to 1, against the loudest strokes of the guide that hears it best

  bool operator==(const DrumStroke&) const = default;
};

/// One onset in take time: a stroke, or several drums struck together. The first of its strokes leads: the hit stands
/// where that one does, the others travel with it.
struct Hit {
  HitId id;
  Frames at;              ///< where the attack begins
  double strength = 0;    ///< 0 to 1, against the loudest hits of the guide that hears it clearest
  double confidence = 0;  ///< 0 to 1
  DrumClass drum = DrumClass::other;
  std::vector<Heard> heardBy;  ///< the surest guide first
  HitOrigin origin = HitOrigin::detected;
  std::optional<Frames> foundAt;  ///< where detection had it, when the user has moved it
  std::vector<DrumStroke> strokes =
      {};  ///< of a hit of several drums, the leading one first; empty for a single stroke

  bool operator==(const Hit&) const = default;
};

/// All strokes of a hit, the leading one first.
std::vector<DrumStroke> strokesOf(const Hit& hit);

/// Take time of a hit's first and last stroke: what moves with it.
struct HitReach {
  Frames first;
  Frames last;
};
HitReach reachOf(const Hit& hit);

/// Sorted by time.
using HitList = std::vector<Hit>;

inline constexpr SettingRange kSensitivityRange{"sensitivity", "%", 0, 100, 1, 50};
inline constexpr SettingRange kMinSpacingRange{"at least apart", "ms", 5, 500, 1, 30};
inline constexpr SettingRange kGuideWeightRange{"weight", "%", 0, 200, 5, 100};
inline constexpr SettingRange kGuideSensitivityRange{"sensitivity against the set's", "%", -50, 50, 1, 0};

/// How much one guide has to say.
struct GuideSettings {
  double weight = kGuideWeightRange.fallback;
  double sensitivity = kGuideSensitivityRange.fallback;

  bool operator==(const GuideSettings&) const = default;
};
inline constexpr std::array kGuideNumbers{
    Setting<GuideSettings>{
        &GuideSettings::weight, kGuideWeightRange, "weight", "how much this guide has to say; 0: not listened to", {}},
    Setting<GuideSettings>{&GuideSettings::sensitivity,
                           kGuideSensitivityRange,
                           "sensitivity",
                           "more (+) or less (\u2212) sensitive than the set",
                           {}},
};

/// What counts as a hit. Turning these only filters what detection found.
struct HitSettings {
  double sensitivity = kSensitivityRange.fallback;
  double minSpacingMs = kMinSpacingRange.fallback;
  std::map<TrackId, GuideSettings> guides = {};  ///< of those that differ from the defaults

  GuideSettings guide(TrackId track) const {
    const auto found = guides.find(track);
    return found == guides.end() ? GuideSettings{} : found->second;
  }

  bool operator==(const HitSettings&) const = default;
};

inline constexpr std::array kHitNumbers{
    Setting<HitSettings>{&HitSettings::sensitivity, kSensitivityRange, "sensitivity", "how much counts as a hit",
                         "--sensitivity"},
    Setting<HitSettings>{
        &HitSettings::minSpacingMs, kMinSpacingRange, "minimum spacing ms", "hits nearer to each other are one", {}},
};

/// The lowest strength that counts at a sensitivity: 1 at 0 %, 0.05 at the default, 0 at 100 %.
double strengthThreshold(double sensitivity);
/// How strong a hit must be on one guide to count there: the threshold in units of that guide's own strokes; above 1
/// when nothing counts.
double guideThreshold(const HitSettings& settings, TrackId guide);
/// The hits that count, sorted: those strong enough on any guide that heard them. What the user placed always counts;
/// what the user removed never does.
HitList activeHits(const HitList& all, const HitSettings& settings, int rate);
/// Those of them that lie in `within`, on take time.
HitList activeHits(const HitList& all, const HitSettings& settings, int rate, FrameRange within);

}  // namespace ochron

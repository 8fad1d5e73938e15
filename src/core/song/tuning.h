#pragma once

#include <array>

#include "base/setting.h"
#include "song/scale.h"

namespace ochron {

inline constexpr SettingRange kKeepCentreRange{"centre", "%", 0, 100, 1, 0};
inline constexpr SettingRange kKeepWanderRange{"wander", "%", 0, 100, 1, 100};
inline constexpr SettingRange kKeepVibratoRange{"vibrato", "%", 0, 200, 1, 100};
inline constexpr SettingRange kPitchToleranceRange{"leave alone within", "cents", 0, 50, 1, 0};
inline constexpr SettingRange kLargestPitchMoveRange{"move at most", "cents", 0, 600, 5, 0};
inline constexpr SettingRange kFormantsRange{"formants", "cents", -1200, 1200, 10, 0};

/// A pitch plan's controls: where notes go, and how much of the singer stays.
struct TuneSettings {
  bool on = false;
  Scale scale = chromaticScale();
  double keepCentre = kKeepCentreRange.fallback;    ///< of a note's distance to its pitch of the scale
  double keepWander = kKeepWanderRange.fallback;    ///< of what moves slowly inside a note
  double keepVibrato = kKeepVibratoRange.fallback;  ///< of what moves faster
  double tolerance = kPitchToleranceRange.fallback;
  double largestMove = kLargestPitchMoveRange.fallback;  ///< 0: as far as needed
  double formants = kFormantsRange.fallback;             ///< 0: they stay

  bool operator==(const TuneSettings&) const = default;
};

inline constexpr std::array kTuneNumbers{
    Setting<TuneSettings>{&TuneSettings::keepCentre, kKeepCentreRange, "keep centre",
                          "of how far a note lies off the scale", "--keep-centre"},
    Setting<TuneSettings>{&TuneSettings::keepWander, kKeepWanderRange, "keep wander",
                          "of what moves slowly inside a note", "--keep-wander"},
    Setting<TuneSettings>{&TuneSettings::keepVibrato, kKeepVibratoRange, "keep vibrato",
                          "of what moves faster than some 3 Hz", "--keep-vibrato"},
    Setting<TuneSettings>{&TuneSettings::tolerance, kPitchToleranceRange, "leave alone within cents",
                          "notes so near to their pitch are not moved", "--tolerance"},
    Setting<TuneSettings>{&TuneSettings::largestMove, kLargestPitchMoveRange, "move at most cents",
                          "no note is moved further; 0: as far as needed", "--move-at-most"},
    Setting<TuneSettings>{&TuneSettings::formants, kFormantsRange, "formants cents",
                          "by how much the voice's colour goes up; 0: it stays", "--formants"},
};
/// The description of one of them.
constexpr const Setting<TuneSettings>& tuneNumber(double TuneSettings::*field) {
  for (const auto& n : kTuneNumbers)
    if (n.field == field) return n;
  return kTuneNumbers.front();
}

}  // namespace ochron

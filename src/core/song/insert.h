#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/shared.h"
#include "song/effect_state.h"
#include "song/envelope.h"

namespace ochron {

inline constexpr std::size_t kMostInserts = 32;          ///< in one place
inline constexpr std::size_t kMostInsertValues = 1'000;  ///< of one effect
inline constexpr std::size_t kMostMovedControls = 100;   ///< of one effect
/// What a value of an effect's control may be; each control has a narrower range of its own.
inline constexpr SettingRange kInsertValueRange{"value", "", -1e9, 1e9, 0.01, 0};

/// A control that moves along the song.
struct MovedControl {
  std::string name;  ///< as it is shown, also where the plug-in is missing
  std::string unit;
  double low = 0;
  double high = 1;  ///< above `low`; by octaves both are above 0
  EnvelopeWay way = EnvelopeWay::even;
  Envelope points;  ///< in song time; one at least, within the range

  /// What it is before its first point.
  double first() const { return points.empty() ? low : points.front().value; }
  SettingRange range() const {
    return {{}, {}, low, high, way == EnvelopeWay::steps ? 1 : (high - low) / 1000, first()};
  }
  /// Its value at a place of the song.
  double at(Frames place) const { return valueAt(points, place, first(), way); }
  bool operator==(const MovedControl&) const = default;
};

/// An effect in a track, in all tracks of a mic set alike, or in the mix.
struct Insert {
  InsertId id;
  std::string effect;                    ///< URI of an LV2 plug-in
  std::string name;                      ///< as it is shown, also where the plug-in is missing
  bool on = true;                        ///< off: what comes in goes out, as late as through the effect
  std::map<std::string, double> values;  ///< by the symbol of a control; others are at their default

  /// By symbol: controls that move along the song, whatever their value above says.
  std::map<std::string, MovedControl> moved = {};
  Shared<EffectState> state = {};

  bool operator==(const Insert&) const = default;
};
/// In the order in which sound goes through them.
using InsertList = std::vector<Insert>;

}  // namespace ochron

#pragma once

#include <array>
#include <string_view>
#include <vector>

#include "base/setting.h"
#include "base/units.h"

namespace ochron {

inline constexpr double kSilentDb = -60;  ///< an envelope's lowest gain: nothing is heard
inline constexpr SettingRange kGainEnvelopeRange{"gain", "dB", kSilentDb, 12, 0.1, 0};
inline constexpr SettingRange kPitchRange{"pitch", "cents", -2400, 2400, 1, 0};
inline constexpr SettingRange kMuteRange{"mute", "", 0, 1, 1, 0};
inline constexpr SettingRange kSpeedRange{"speed", "%", 25, 400, 1, 100};

/// How a song runs at another speed.
struct SpeedManner {
  bool keepsPitch = false;  ///< only the speed changes; else pitch goes along, as on a tape
  bool exported = true;     ///< what is exported runs so, too; else it is only heard

  bool operator==(const SpeedManner&) const = default;
};

struct EnvelopePoint {
  Frames at;
  double value = 0;
  double bend = 0;  ///< of the way to the next point, -1 to 1: below 0 it sets out late, above 0 early

  bool operator==(const EnvelopePoint&) const = default;
};

/// Points sorted by place, no two at one place. Level before the first and after the last.
using Envelope = std::vector<EnvelopePoint>;

/// How values go from one point to the next: evenly, by octaves (as frequencies are heard; all are above 0), or at
/// once.
enum class EnvelopeWay { even, octaves, steps };
inline constexpr std::array<std::string_view, 3> kEnvelopeWayNames{"even", "octaves", "steps"};

/// The value at a place; `fallback` when there are no points, and before the first one of those that step.
double valueAt(const Envelope& envelope, Frames at, double fallback, EnvelopeWay way = EnvelopeWay::even);
/// Puts a point in its place; one that is there already gives way.
Envelope withPoint(Envelope envelope, const EnvelopePoint& point);
/// What lies in [range), with its places counted from the range's start and points at both its ends.
Envelope piece(const Envelope& envelope, FrameRange range, double fallback);
/// `part` put in from `at` on for `length`; what was there gives way, what lies around it stays as it was.
Envelope withPiece(const Envelope& envelope, const Envelope& part, Frames at, Frames length, double fallback);

}  // namespace ochron

#pragma once

#include <functional>
#include <span>
#include <vector>

#include "base/units.h"

namespace ochron {

/// New sound in place of a stretch of a recording.
struct Regrained {
  Frames start;                              ///< of the recording, or where that is to lie
  std::vector<std::vector<float>> channels;  ///< of equal length; empty: the stretch is too short to be changed
};

struct RegrainSettings {
  std::function<double(double frame)> ratio;     ///< of the pitch, at a frame of the recording
  std::function<double(double frame)> formants;  ///< ratio by which the formants go up there
  /// Where a frame of the recording is to lie, rising; none: where it is. The pitch stays.
  std::function<double(double frame)> place = {};
  bool endsFreely = false;  ///< with its last whole period instead of the recording's: no period is bent
};

/// Changes the pitch of a voiced stretch period by period (pitch-synchronous overlap-add, Moulines & Charpentier 1990):
/// each period of the new pitch is the nearest one of the recording, laid over its neighbours as wide as it is long.
/// The formants stay, as what lies within a period is not changed; so does the power. The length stays, or is changed
/// by more or fewer periods. It begins and ends on a period of the recording, so that what is around it joins without a
/// step; the part of a period that is left over at the end is spread over its last 80 ms. `marks`: of the recording's
/// mix (periodMarks()); all channels are changed alike.
Regrained regrain(const std::vector<std::span<const float>>& channels, int rate, std::span<const double> marks,
                  const RegrainSettings& settings);

}  // namespace ochron

#pragma once

#include <map>
#include <span>
#include <vector>

#include "base/units.h"
#include "terms/sung.h"

namespace ochron {

/// A run of a single line that is brought to other places.
struct LineRun {
  std::vector<std::span<const float>> sounds;  ///< of equal length, a channel each
  Frames start;                                ///< take time of their first frame
  std::map<std::size_t, std::size_t> keys;     ///< frames of the sounds and where they land, rising
  std::vector<FrameRange> recorded;            ///< frames of the sounds that are played as recorded, in order and apart
  int rate = 48'000;
};

/// Lays the voiced stretches of a line over `made`, what an engine has made of it: period by period, each of which is
/// the recording's, its pitch and its colour as they were (regrain()). Where a stretch begins or ends beside what is
/// played as recorded it does so in its phase. What is not voiced is left as it is.
void layVoiced(const PitchTrack& track, const LineRun& run, std::vector<std::vector<float>>& made);

}  // namespace ochron

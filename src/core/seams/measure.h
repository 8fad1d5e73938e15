#pragma once

#include <map>
#include <vector>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// How a seam comes out on the mics of its set.
struct SeamMeasure {
  double levelDb = 0;   ///< level over the 20 ms that end with the crossfade, against the level of what it joins; on
                        ///< the mic where that is worst
  double steepness = 0; ///< steepest step inside against the recording's own 99.9th percentile step, worst mic
  double loudDb = -120; ///< loudest mic at the seam against that mic's mean level
  TrackId worst;        ///< the mic of levelDb

  bool operator==(const SeamMeasure&) const = default;
};

inline constexpr double kSeamLevelBarDb = 0.5;
inline constexpr double kSeamSteepnessBar = 1.0;

/// Measures every crossfade of a set by the piece it begins. Mics below -70 dBFS at a seam have no say in its level.
/// Pieces with pins are left out: what they sound like is known only when they are rendered. Fails only when cancelled.
Result<std::map<ClipId, SeamMeasure>> measureSeams(const Song& song, SetId set, const MediaPool& pool,
                                                   Progress& progress);

}  // namespace ochron

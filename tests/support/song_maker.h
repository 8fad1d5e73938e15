#pragma once

#include "feel/plan_timing.h"
#include "media/pool.h"
#include "song/song.h"
#include "support/performance.h"

namespace ochron::test {

/// A song with one take of the given mics (one set), its recordings in memory and its hits set as given.
struct MadeSong {
  Song song;
  MediaPool pool;
  TakeId take;
  SetId set;
};

MadeSong songOf(const TempoMap& map, const std::vector<std::vector<float>>& mics, const std::vector<Hit>& hits);
/// With the true kick and snare hits of a performance.
MadeSong songOf(const Performance& performance);

/// The timing of its hits under these settings, switched on.
TimingResult planOf(const MadeSong& made, const TimingSettings& settings);

/// What a set's clips sound like on one mic.
std::vector<float> rendered(const MadeSong& made, std::size_t mic, FrameRange range);

}  // namespace ochron::test

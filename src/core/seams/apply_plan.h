#pragma once

#include "base/result.h"
#include "feel/plan_timing.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// Carries out a set's timing plan: takes the pieces of the plan's last run together again, and cuts and moves anew.
/// With the plan off the clips are as recorded. Pieces keep their names, gains and mutes from run to run. Pieces that
/// do not move against each other are not cut. All mics of the set share the clips, so they move by the same frames.
/// Joints are found by listening to what of the recordings is in the pool, on all cores but one; by the attacks alone
/// where nothing is, and marked so (PlanPiece::unheard).
Result<Song> applyTimingPlan(const Song& song, SetId set, const MediaPool& pool);
/// The same with a result of planTiming at hand.
Result<Song> applyTimingPlan(const Song& song, SetId set, const TimingResult& timing, const MediaPool& pool);

/// The set has joints that are still to be listened for, and what there is to hear is in the pool. What is locked stays
/// as it is.
bool hasJointsToHear(const Song& song, const MicSet& set, const MediaPool& pool);

}  // namespace ochron

#pragma once

#include <vector>

#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// The found hits of a take that sound like `hit` on the mic that hears it best, yet were taken for another drum: what
/// is said of one holds for them. Fails when the hit or that mic's recording is not at hand.
Result<std::vector<HitId>> hitsAlike(const Song& song, TakeId take, SetId set, HitId hit, const MediaPool& pool);

}  // namespace ochron

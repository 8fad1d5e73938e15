#pragma once

#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// How many of a set's hits are struck, 0 to 1: their attacks rise out of what was there (9 dB within 10 ms on the
/// first guide); bowed and sung ones do not. 0 when there are fewer than two, or no recording is at hand.
double struckShare(const Song& song, SetId set, TakeId take, const HitList& hits, const MediaPool& pool);

}  // namespace ochron

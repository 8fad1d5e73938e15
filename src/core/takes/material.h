#pragma once

#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// How many of a set's hits that count at the default sensitivity are struck, 0 to 1: their high frequencies rise out
/// of what was there (7 dB, the 5 ms after against the 10 ms before, on the first guide), and at once (a
/// tenth of what comes within 40 ms); those of bowed, sung and
/// softly plucked ones do not. 0 when there are fewer than two, or no recording is at hand. On takes with truth drums
/// lie at 0.77 and above, guitars, strings and voices at 0.56 and below; picked basses are struck as drums are.
double struckShare(const Song& song, SetId set, TakeId take, const HitList& hits, const MediaPool& pool);

}  // namespace ochron

#pragma once

#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// How surely a set's hits are strokes of drums, 0 to 1: by what sounds on 50 to 135 ms after those that count at the
/// default sensitivity, on the first guide. Of strings, keys and voices it is tones (in the middle of all hits 0.45 and
/// more of the power from 100 Hz to 16 kHz lies in peaks of the spectrum from 200 Hz to 2.5 kHz), of drums it is noise
/// and what lies lower (0.14 and less): 0.5 lies between. Basses are like drums in this. 0 when there are fewer than
/// two hits, or no recording is at hand.
double struckShare(const Song& song, SetId set, TakeId take, const HitList& hits, const MediaPool& pool);

}  // namespace ochron

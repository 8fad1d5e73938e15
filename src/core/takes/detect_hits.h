#pragma once

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// Runs onset detection on the guides of a mic set (all its tracks when none is a guide) in one take; its other mics
/// are listened to for what the guides hear of other drums. The hits carry no names yet; setDetectedHits gives them.
/// Stereo guides are listened to as the mean of both sides. Of guides that were all played as MIDI the hits are their
/// notes, exactly; those within 30 ms are one.
Result<HitList> detectHits(const Song& song, TakeId take, SetId set, const MediaPool& pool, Progress& progress);

}  // namespace ochron

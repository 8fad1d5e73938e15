#pragma once

#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Puts newly detected hits in place of old detected ones. What the user placed, moved or removed stays.
Result<Song> setDetectedHits(const Song& song, TakeId take, SetId set, const HitList& detected,
                             std::optional<double> struck = {});
Result<Song> addHit(const Song& song, TakeId take, SetId set, Frames at, DrumClass drum);
Result<Song> moveHit(const Song& song, TakeId take, SetId set, HitId hit, Frames to);
Result<Song> removeHits(const Song& song, TakeId take, SetId set, const std::vector<HitId>& hits);
/// Another of a hit's strokes leads it, for good: the hit stands there.
Result<Song> leadHit(const Song& song, TakeId take, SetId set, HitId hit, std::size_t stroke);
/// Another class for hits, for good: a new detection does not change it back.
Result<Song> setHitClass(const Song& song, TakeId take, SetId set, const std::vector<HitId>& hits, DrumClass drum);
/// Puts a corrected hit back to where detection found it.
Result<Song> restoreHit(const Song& song, TakeId take, SetId set, HitId hit);
Result<Song> setHitSettings(const Song& song, SetId set, const HitSettings& settings);

}  // namespace ochron

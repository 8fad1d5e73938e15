#pragma once

#include <vector>

#include "base/result.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// Whether the clip at an index of a list joins the one before it: they touch, and sound goes over or fades there.
bool isSeam(const ClipList& clips, std::size_t index);

/// Changes the seams that these clips begin with. Between pieces of a plan it is kept as the user's decision, which the
/// plan carries out with every run; between clips cut by hand the joint itself is moved. Values that are
/// not set stay as they are. `leadIn` moves the joint: for clips cut by hand it counts from the clip's present start.
/// Refused when a clip begins no seam, and when there is no material for the joint's new place.
Result<Song> changeSeams(const Song& song, SetId set, const std::vector<ClipId>& clips, const SeamOverride& change);
/// Gives seams back to the solver and the settings.
Result<Song> releaseSeams(const Song& song, SetId set, const std::vector<ClipId>& clips);

/// Where a seam's middle may lie, in song time: as far as both sides have material and show no attack of the other.
FrameRange seamRoom(const Song& song, SetId set, ClipId clip);

}  // namespace ochron

#pragma once

#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// A clip struck at a place of the song.
struct Struck {
  ClipId clip;
  Frames at;  ///< song time of its first frame
  double gainDb = 0;
};

/// Lays copies of a set's clips where they were struck, each until the next one begins, over what was there. A timing
/// plan that is on moves them as it moves everything. `until`: where the last one ends at the latest.
Result<Song> layStruck(const Song& song, SetId set, std::vector<Struck> struck, Frames until);

}  // namespace ochron

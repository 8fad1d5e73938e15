#pragma once

#include <functional>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

class MadeStore;

/// The recordings as plans make them: drums lowered where layers stand in for them (lowered_takes.h), and what a pitch
/// plan moves computed stretch by stretch, all mics of a set alike; everything else is the recording to the bit.
/// Unchanged stretches are taken from the store.
struct TunedPool {
  MediaPool pool;        ///< every recording, tuned where a plan is active
  MediaPool lowered;     ///< the same before it is tuned
  bool missing = false;  ///< something is heard as recorded until it is made
};
/// With what is at hand; what is as it was in `previous` is taken over.
TunedPool tunedAtHand(const Song& song, const MediaPool& pool, const MadeStore& store,
                      const TunedPool* previous = nullptr);
/// Makes what is missing, nearest to `near` (take time) first. `made` is called now and then when there is more at
/// hand. Fails only when cancelled.
Result<void> makeTuned(const Song& song, const MediaPool& pool, MadeStore& store, Frames near, Progress& progress,
                       const std::function<void()>& made = {});
/// Both: all that is missing is made.
Result<MediaPool> tunedWhole(const Song& song, const MediaPool& pool, MadeStore& store, Progress& progress);
/// Whether any plan asks for something else than the recordings.
bool anyTuned(const Song& song);

}  // namespace ochron

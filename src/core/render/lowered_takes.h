#pragma once

#include <functional>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

class MadeStore;

/// Whether any layer asks for a drum to be lower than it was recorded (blend).
bool anyLowered(const Song& song);

/// The recordings with drums lowered in their close mics where layers stand in for them: what the store has at hand of
/// it. Everything else is the recording to the bit. `missing` is set where something is heard as recorded until it is
/// made; what is as it was in `previous` is taken over.
MediaPool loweredAtHand(const Song& song, const MediaPool& pool, const MadeStore& store, const MediaPool* previous,
                        bool& missing);
/// Makes what is missing, nearest to `near` (take time) first. `made` is called when there is more at hand. Fails only
/// when cancelled.
Result<void> makeLowered(const Song& song, const MediaPool& pool, MadeStore& store, Frames near, Progress& progress,
                         const std::function<void()>& made = {});

}  // namespace ochron

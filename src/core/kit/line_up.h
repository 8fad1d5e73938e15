#pragma once

#include <vector>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// The mics of a set that stand close to a drum, by their names; all of them when none is named for it.
std::vector<TrackId> closeMics(const Song& song, const MicSet& set, std::optional<DrumClass> drum);

/// Whether a layer's strokes or sounds have not been listened to as they are now.
bool needsLiningUp(const Song& song, const Layer& layer);

/// Listens to the drum in the mic that hears it best and to the layer's sounds: the attack of every stroke and of every
/// sound to the sample, how loud they are, and whether a sound's polarity has to be turned. Strokes that the user
/// placed stay where they are. Sounds that are not in the pool are left as they are. Fails only when cancelled.
Result<Layer> linedUp(const Song& song, Layer layer, const MediaPool& pool, Progress& progress);

/// The same for every layer that needs it.
Result<Song> layersLinedUp(const Song& song, const MediaPool& pool, Progress& progress);

}  // namespace ochron

#pragma once

#include <map>

#include "document/recordings.h"
#include "kit/load_sounds.h"

namespace ochron {

/// What was read of sounds that are in the song now, for Recordings::put.
std::map<MediaId, Recordings::Read> readsOf(const Song& song, const LoadedSounds& loaded);

}  // namespace ochron

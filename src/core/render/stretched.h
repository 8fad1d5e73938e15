#pragma once

#include <map>
#include <memory>
#include <vector>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// The sound of a clip with pins, one recording's channels; its first frame belongs to the first pin's song time.
struct StretchedSound {
  Shared<std::vector<Pin>> pins;  ///< what it was made for
  std::map<MediaId, std::shared_ptr<const DecodedMedia>> media;
};

/// By clip.
using StretchedSounds = std::map<ClipId, StretchedSound>;

/// Renders every clip that has pins, all mics of a set by the same map. The first part of what follows each pin is the
/// recording itself, to the sample; only the sustain up to the next pin is stretched. What `have` holds for the same
/// pins is taken over. Fails only when cancelled.
Result<StretchedSounds> renderStretched(const Song& song, const MediaPool& pool, const StretchedSounds& have,
                                        Progress& progress);

}  // namespace ochron

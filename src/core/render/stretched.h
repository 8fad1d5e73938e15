#pragma once

#include <map>
#include <memory>
#include <vector>

#include "base/progress.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// What a clip's sound was made from.
struct SoundRecipe {
  Shared<std::vector<Pin>> pins;
  Envelope pitch;
  FrameRange take;  ///< with a pitch envelope: what it plays, and which way
  bool reversed = false;

  bool operator==(const SoundRecipe&) const = default;
};

/// The sound of a clip that cannot be read straight from its recording: one with pins, or with a pitch envelope. One
/// recording's channels.
struct StretchedSound {
  SoundRecipe recipe;
  Frames lead;  ///< how far before the clip's start it begins; of clips without pins
  std::map<MediaId, std::shared_ptr<const DecodedMedia>> media;

  /// Song time of its first frame.
  Frames startOf(const Clip& clip) const;
};

/// By clip.
using StretchedSounds = std::map<ClipId, StretchedSound>;

/// Whether a clip's sound has to be made before it can be played.
bool needsMaking(const Clip& clip);
/// The sound made for a clip as it is now; null when there is none.
const StretchedSound* madeSound(const Clip& clip, const StretchedSounds& sounds);

/// Renders every clip that needs it, all mics of a set by the same map. With pins, the first part of what follows each
/// pin is the recording itself, to the sample; only the sustain up to the next pin is stretched. A pitch envelope
/// is carried out by stretching and reading at another speed, so that the timing stays. What `have` holds for the same
/// recipe is taken over. Fails only when cancelled.
Result<StretchedSounds> renderStretched(const Song& song, const MediaPool& pool, const StretchedSounds& have,
                                        Progress& progress);

}  // namespace ochron

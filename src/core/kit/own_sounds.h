#pragma once

#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// One of a drum's strokes as a sound of its own: how alone it stands.
struct OwnStroke {
  TakeId take;
  Frames at;      ///< take time of its attack
  Frames length;  ///< until the next stroke of anything, or its end
  double strength = 0;
  double clearDb = 0;  ///< over the 10 ms before it
};
/// The strokes of a layer's drum that stand alone, the clearest first. `layer` has been lined up.
std::vector<OwnStroke> cleanStrokes(const Song& song, const Layer& layer, const MediaPool& pool);

/// A set of sounds made of a take's own clean strokes, in up to four levels of up to four alternates each, as the
/// drum's mic recorded them. Refused, with a sentence, where no stroke stands alone.
Result<SoundSet> ownSounds(const Song& song, const Layer& layer, const MediaPool& pool);

}  // namespace ochron

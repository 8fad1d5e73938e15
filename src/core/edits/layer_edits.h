#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "song/incoming_sounds.h"
#include "song/song.h"

namespace ochron {

/// A layer without sounds on the strokes of a drum (none: all), on a track of its own below the drum's tracks. It is
/// the last of the song's layers.
Result<Song> addLayer(const Song& song, SetId set, std::optional<DrumClass> drum, const std::string& name);
/// Another set of sounds, out of files or out of recordings that the song has. What was decided for strokes about the
/// earlier sounds is dropped, but for whether they are heard and their levels. The layer takes the set's name
/// where it had that of the earlier one.
Result<Song> setLayerSounds(const Song& song, LayerId layer, const IncomingSoundSet& sounds);
Result<Song> setLayerSounds(const Song& song, LayerId layer, SoundSet sounds);
/// Settings, curve, polarity, drum, name and whether it is on.
Result<Song> setLayer(const Song& song, const Layer& layer);
/// What was heard of its drum and sounds; dropped, not refused, where the layer has changed meanwhile in what was
/// listened to.
Result<Song> setLayerHeard(const Song& song, const Layer& heard);
/// With its track.
Result<Song> removeLayer(const Song& song, LayerId layer);
/// The same again below it, with sounds of its own to be changed.
Result<Song> duplicateLayer(const Song& song, LayerId layer);
/// What is wished for strokes; the default takes wishes back.
Result<Song> setStrokeWish(const Song& song, LayerId layer, const std::vector<HitId>& strokes, const StrokeWish& wish);

}  // namespace ochron

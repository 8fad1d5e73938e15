#pragma once

#include <vector>

#include "media/pool.h"
#include "song/layer.h"

namespace ochron {

/// The sound's own stretch of one channel of its media, as far as that holds it.
Samples sideOf(const KitSound& sound, const DecodedMedia& media, int channel);

/// A sound as a layer plays it: at its pitch, cut to its length and bands, one or two channels.
struct PlayedSound {
  std::vector<std::vector<float>> channels;
  Frames attack;  ///< from its beginning
};
/// `sound` of the media at a rate. Without frames where the media holds none of its range.
PlayedSound playedSound(const KitSound& sound, const LayerSettings& settings, const DecodedMedia& media);
/// Whether both make the same of every sound: they differ at most in where and how loud it is played.
bool makeTheSameSounds(const LayerSettings& a, const LayerSettings& b);

}  // namespace ochron

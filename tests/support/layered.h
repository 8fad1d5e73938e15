#pragma once

#include <gtest/gtest.h>

#include "edits/layer_edits.h"
#include "kit/line_up.h"
#include "media/decoded.h"
#include "song/layer_strokes.h"
#include "support/song_maker.h"
#include "support/unwatched.h"

namespace ochron::test {

/// A sound as a file of a layer's set, and in the pool.
inline IncomingSoundSet oneSound(const std::string& name, std::size_t frames) {
  IncomingSoundSet in;
  in.name = name;
  in.origin = name + ".wav";
  in.files.push_back({name, name + ".wav", "", 1, 48'000, Frames{static_cast<std::int64_t>(frames)}});
  KitSound sound;
  sound.name = name;
  sound.range = {Frames{}, Frames{static_cast<std::int64_t>(frames)}};
  in.sounds.push_back({0, sound});
  return in;
}

/// A performance with a layer of one sound on a drum, lined up. The layer is the song's last.
inline MadeSong layered(MadeSong made, DrumClass drum, const std::vector<float>& sound,
                        const LayerSettings& settings = {}) {
  auto song = addLayer(made.song, made.set, drum, "layer");
  if (song) song = setLayerSounds(*song, song->layers.back().id, oneSound("sound", sound.size()));
  EXPECT_TRUE(song);
  if (!song) return made;
  auto layer = song->layers.back();
  made.pool[layer.sounds->sounds.front().media] = DecodedMedia::fromSamples(song->rate, {sound});
  layer.settings = settings;
  song = setLayer(*song, layer);
  if (song) song = layersLinedUp(*song, made.pool, unwatched());
  EXPECT_TRUE(song);
  if (song) made.song = *song;
  return made;
}

}  // namespace ochron::test

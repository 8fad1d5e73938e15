#pragma once

#include "media/pool.h"
#include "song/song.h"
#include "support/song_maker.h"

namespace ochron::test {

/// A song with a kit of three mics, a bass and a voice, each with one clip from the song's beginning; ten seconds of
/// noise, unlike on every track.
struct TwoSets {
  TwoSets();
  std::vector<float> heard(TrackId track, FrameRange range) const;
  /// The recording of a track.
  const std::vector<float>& sound(TrackId track) const;

  Song song;
  MediaPool pool;
  SetId kit, bass, voice;
  ClipId kitClip, bassClip, voiceClip;
  std::vector<std::vector<float>> sounds;
};

ClipIds idsOf(const Song& song, SetId set);

}  // namespace ochron::test

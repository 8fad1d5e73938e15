#pragma once

#include <memory>
#include <span>
#include <vector>

#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// One channel of one mic, addressed in take time.
struct MicView {
  std::shared_ptr<const DecodedMedia> media;
  int channel = 0;
  Frames offset;     ///< take time of the recording's first frame
  double power = 0;  ///< mean square over the whole recording

  /// Mean square in [from, to) of take time, read from the peaks (64 frames fine). Silence outside the recording.
  double energy(Frames from, Frames to) const;
  /// Samples of [from, to); empty when not wholly inside the recording. `room` is used where they do not lie as floats.
  std::span<const float> samples(Frames from, Frames to, std::vector<float>& room) const;
};

/// All channels of a set's mics in a take that are at hand.
std::vector<MicView> micsOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool);

}  // namespace ochron

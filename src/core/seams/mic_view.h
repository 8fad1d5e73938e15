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

/// What the peaks of several mics add up to in one stretch of take time, read once: a joint asks for many stretches of
/// few milliseconds in the same tenth of a second.
class EnergySums {
 public:
  /// Holds on to `mics`.
  EnergySums(Frames from, Frames to, const std::vector<MicView>& mics);
  const std::vector<MicView>& mics() const { return mics_; }
  /// As MicView::energy of the mic with this index; what reaches out of the stretch is read anew.
  double energy(std::size_t mic, Frames from, Frames to) const;

 private:
  struct Bins {
    std::int64_t first = 0;  ///< bin of the recording
    std::int64_t count = 0;
    std::size_t at = 0;  ///< of the sum up to its first bin
  };
  const std::vector<MicView>& mics_;
  std::vector<Bins> bins_;
  std::vector<std::int64_t> upTo_;  ///< squares of the bins before each, mic after mic
};

/// All channels of a set's mics in a take that are at hand.
std::vector<MicView> micsOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool);

}  // namespace ochron

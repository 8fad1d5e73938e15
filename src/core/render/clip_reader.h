#pragma once

#include <span>
#include <vector>

#include "render/made_sound.h"
#include "render/render_plan.h"

namespace ochron {

/// A recording as one track plays it.
struct Source {
  MediaId id;
  std::shared_ptr<const DecodedMedia> media;
  Frames offset;  ///< take time of its first frame
};

/// A stretch of song that is heard from one place: index = origin + step * song time.
struct SoundPiece {
  FrameRange range;
  Samples samples;  ///< empty: `own` is meant
  std::int64_t origin = 0;
  int step = 1;
  std::vector<float> own;
  Ramp in;  ///< of a preview's pieces, which are joined while the sound itself is not made
  Ramp out;

  /// What is heard in a part of the range, in the order in which it is heard.
  Samples heard(FrameRange part) const {
    const auto& all = own.empty() ? samples : Samples(own);
    return all.subspan(static_cast<std::size_t>(origin + step * part.start.value),
                       static_cast<std::size_t>(part.length().value), step);
  }
};

/// Finds the samples of one channel of a clip: in the recording, in made sound, or while that is missing in what stands
/// in for it.
class ClipReader {
 public:
  /// `made`: of this clip; null when none of its sound has to be made.
  ClipReader(const Clip& clip, const Source& source, const ClipSound* made, int channel);

  /// What lies in a stretch of song, in order; apart but for the joints of a preview. Silence where there is none.
  std::vector<SoundPiece> pieces(FrameRange song) const;
  /// The samples of a stretch of song; empty when it is not wholly there. `room` is used when they lie apart.
  std::span<const float> samples(FrameRange song, std::vector<float>& room) const;
  /// The same with silence where there is none.
  std::vector<float> copy(FrameRange song) const;

 private:
  void addPlain(const EvenPiece& even, std::vector<SoundPiece>& out) const;
  void addMade(FrameRange range, std::vector<SoundPiece>& out) const;
  void addPitched(FrameRange range, std::vector<SoundPiece>& out) const;
  void addPreview(FrameRange whole, FrameRange range, std::vector<SoundPiece>& out) const;
  void add(FrameRange stretched, const Samples& samples, std::int64_t origin, std::vector<SoundPiece>& out) const;
  std::span<const float> channelOf(const ClipSound::Part& part) const;
  void place(std::vector<SoundPiece>& pieces) const;

  const Clip& clip_;
  const Source& source_;
  const ClipSound* made_;
  const int channel_;
  const int rate_;
};

}  // namespace ochron

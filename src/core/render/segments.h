#pragma once

#include <map>

#include "render/plan.h"

namespace ochron {

/// A recording as one track plays it.
struct Source {
  MediaId id;
  std::shared_ptr<const DecodedMedia> media;
  Frames offset;  ///< take time of its first frame
};

/// What each clip of a track plays; null when that is not at hand.
class ClipSources {
 public:
  ClipSources(const Song& song, const MicSet& set, TrackId track, const MediaPool& pool);
  const Source* of(const Clip& clip) const;
  std::vector<std::shared_ptr<const DecodedMedia>> all() const;

 private:
  std::map<std::pair<TakeId, MediaId>, Source> sources_;
  std::map<TakeId, MediaId> own_;
  std::size_t place_ = 0;  // of the track in its set
};

/// Which side of the stereo picture a channel of a track is for.
enum class Side { both, left, right };

SegmentList compileChannel(const Song& song, const ClipList& clips, const ClipSources& sources,
                           const StretchedSounds& stretched, int channel, Side side);

}  // namespace ochron

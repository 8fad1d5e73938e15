#pragma once

#include <map>

#include "render/clip_reader.h"

namespace ochron {

/// What each clip of a track plays; null when that is not at hand.
class ClipSources {
 public:
  ClipSources(const Song& song, const MicSet& set, TrackId track, const MediaPool& pool);
  const Source* of(const Clip& clip) const;
  std::vector<std::shared_ptr<const DecodedMedia>> all() const;

 private:
  std::map<std::pair<TakeId, MediaId>, Source> sources_;
  std::map<TakeId, MediaId> own_;
  std::map<std::pair<MediaId, Frames>, Source> sounds_;  ///< of clips that have one of their own, by place
  std::size_t place_ = 0;                                // of the track in its set
};

/// Which side of the stereo picture a channel of a track is for.
enum class Side { both, left, right };

/// What the channels of a plan are compiled from, besides their clips.
struct PlanParts {
  MadeSounds made;
  std::map<BundleId, FrameRange> bundles;  ///< from each one's first clip to its last

  PlanParts(const Song& song, const MediaPool& pool, const MadeStore* store);
};

SegmentList compileChannel(const Song& song, const ClipList& clips, const ClipSources& sources, const PlanParts& parts,
                           int channel, Side side);

}  // namespace ochron

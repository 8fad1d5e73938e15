#pragma once

#include <vector>

#include "song/song.h"

namespace ochron {

/// A hit where a clip plays it.
struct StandingHit {
  HitId hit;
  TakeId take;
  ClipId clip;
  Frames at;        ///< song time
  TrackId heardOn;  ///< the guide that heard it clearest; none: it was placed by hand

  bool operator==(const StandingHit&) const = default;
};

/// The hits of a set that `clips` play inside `within`, clip by clip. Nothing is planned, so it costs little while
/// clips are moved. Clips that run backwards, and other sets' recordings, have none.
std::vector<StandingHit> standingHits(const Song& song, const MicSet& set, const ClipList& clips, FrameRange within);

}  // namespace ochron

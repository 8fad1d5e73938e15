#pragma once

#include <algorithm>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

inline tl::unexpected<Error> setGone() {
  return fail(ErrorKind::notFound, "This mic set is not in the song any more.");
}

/// A copy of the song with one set changed by `change(Song&, MicSet&) -> Result<void>`.
template <class F>
Result<Song> withSet(const Song& song, SetId id, F&& change) {
  Song next = song;
  for (auto& s : next.sets) {
    if (s.id != id) continue;
    if (auto ok = change(next, s); !ok) return tl::unexpected(ok.error());
    return next;
  }
  return setGone();
}

/// Cuts [range) out of a clip list: clips inside go, clips that reach in are trimmed, a clip around it becomes two.
void clearRange(Song& song, ClipList& clips, FrameRange range);
/// Puts a clip in its place over what is there.
void placeClip(Song& song, ClipList& clips, const Clip& clip);
/// Shortens fades that no longer fit.
void fitFades(Clip& clip);
/// The part of a clip between two song times (both inside it); keeps its name.
Clip partOf(const Clip& clip, FrameRange range);

/// The pieces of each plan taken together to the clips they were cut from, in order of start. Clips put in between by
/// hand may overlap with them; resolveOverlaps() settles that.
ClipList mergedPieces(const ClipList& clips);
/// Trims clips that reach into others, so that none overlap. Pieces keep on record what they stand for.
void resolveOverlaps(ClipList& clips);

}  // namespace ochron

#pragma once

#include <algorithm>
#include <optional>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

inline tl::unexpected<Error> setGone() {
  return fail(ErrorKind::notFound, "This mic set is not in the song any more.");
}

/// Why an edit that turns `before` into `after` may not be made; none when it touches nothing locked.
std::optional<Error> lockedAgainst(const Song& song, const MicSet& before, const MicSet& after);

/// Why a set may not be taken apart or away: something in it is locked.
std::optional<Error> anythingLocked(const MicSet& set);
/// Why nothing may be decided about a hit at a place of its take; none when it is free.
std::optional<Error> lockedHit(const Song& song, const MicSet& set, TakeId take, Frames at);

/// A copy of the song with one set changed by `change(Song&, MicSet&) -> Result<void>`. Refuses what a lock forbids.
template <class F>
Result<Song> withSet(const Song& song, SetId id, F&& change) {
  Song next = song;
  for (std::size_t i = 0; i < next.sets.size(); ++i) {
    auto& s = next.sets[i];
    if (s.id != id) continue;
    if (auto ok = change(next, s); !ok) return tl::unexpected(ok.error());
    if (auto locked = lockedAgainst(song, song.sets[i], s)) return tl::unexpected(*locked);
    return next;
  }
  return setGone();
}

/// Of clips that share a name, all but the first get new ones.
void giveOwnNames(Song& song, ClipList& clips);

/// The clips of [range), parts of those that reach out of it.
ClipList partsIn(const ClipList& clips, FrameRange range);

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

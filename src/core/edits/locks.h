#pragma once

#include <optional>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Locks or unlocks a whole set: no edit changes it, its hits or its plan.
Result<Song> lockSet(const Song& song, SetId set, bool locked);
/// Less of a piece than this (60 ms), at a range's edge, is taken for a joint, not for the piece.
inline Frames littleOfPiece(int rate) { return framesFromMs(60, rate); }

/// Locks a range of song time: what lies there stays as it is, also when the timing plan's settings change. Edits that
/// would change it are refused (againstLocks). Pieces of a plan are locked whole: the range grows to their ends, or
/// leaves out one of which it holds less than 60 ms; so are they unlocked. Ranges that touch become one.
Result<Song> lockRange(const Song& song, SetId set, FrameRange range);
Result<Song> unlockRange(const Song& song, SetId set, FrameRange range);

/// Why `after` may not follow `before`: something that is heard in a locked place, or was decided about it, would be
/// another. None when all of it stays. This is all there is to locks: edits do not look at them.
std::optional<Error> againstLocks(const Song& before, const Song& after);
/// The part of a locked range in which no frame changes. A joint between a plan's piece at the range's edge and one
/// outside belongs to both, and is made anew when that one moves: it ends before the first attack in the range, and
/// begins after the last.
FrameRange heldIn(const Song& song, const MicSet& set, FrameRange lock);
/// What is locked of a set, in song time: all of it, some ranges, or nothing.
std::vector<FrameRange> lockedIn(const MicSet& set);

}  // namespace ochron

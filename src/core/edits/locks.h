#pragma once

#include <optional>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Locks or unlocks a whole set: no edit changes it, its hits or its plan.
Result<Song> lockSet(const Song& song, SetId set, bool locked);
/// Locks a range of song time: what lies there stays as it is, also when the timing plan's settings change. Other edits
/// that would change it are refused. Pieces of a plan are locked whole: the range grows to their ends, or leaves out
/// one of which it holds less than 60 ms. Ranges that touch become one.
Result<Song> lockRange(const Song& song, SetId set, FrameRange range);
Result<Song> unlockRange(const Song& song, SetId set, FrameRange range);

/// Why an edit that turns `before` into `after` may not be made; none when it touches nothing locked.
std::optional<Error> lockedAgainst(const Song& song, const MicSet& before, const MicSet& after);
/// Why a set may not be taken apart or away: something in it is locked.
std::optional<Error> anythingLocked(const MicSet& set);
/// Why nothing may be decided about a hit at a place of its take; none when it is free.
std::optional<Error> lockedHit(const Song& song, const MicSet& set, TakeId take, Frames at);
/// Why what is heard of some tracks in a range may not be changed; none when it is free.
std::optional<Error> lockedTracks(const Song& song, const std::vector<TrackId>& tracks, FrameRange range);

}  // namespace ochron

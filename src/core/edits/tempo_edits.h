#pragma once

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Another tempo map. What is held by the grid keeps its bars and beats, what is held by the clock its place (Hold).
/// Its anchors are gone (anchor_edits.h). Refuses what a lock forbids. Plans are to be run again (carryToTempo).
Result<Song> setTempoMap(const Song& song, const TempoMap& map);

/// Its tempo map was heard: what is in doubt of it is kept until the tempo is set anew.
Song withTempoDoubt(const Song& song, const TempoDoubt& doubt);

/// Another meter from a bar on up to the next change, or for that bar alone: a half bar, a pick-up. Nothing that sounds
/// moves, only the bar lines that follow do; anchors hold their places. Fails on a meter outside its ranges. Plans are
/// to be run again.
Result<Song> setMeter(const Song& song, int bar, Meter meter, bool alone);

}  // namespace ochron

#pragma once

#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// What else moves when a pin is moved.
enum class PinReach {
  neighbours,  ///< nothing: the pins beside it hold, and where there is none the next hit is pinned where it is
  following,   ///< all that follows in the clip goes along, and the clip ends later or earlier
  ends,        ///< everything gives way evenly from the clip's two ends
};

/// Moves places of the recording that a clip plays by `by` of song time; pinned from now on, at attacks together with
/// all strokes of their hit. Goes as far as the places beside it leave room: 4 ms, and never past one another. A clip
/// that a timing plan cut or stretched stays the plan's: the pins are put under it (PinReach::neighbours only, and no
/// hit that the plan places itself), so the plan has to be carried out again. Refused with a sentence when a place is
/// not in the clip or something there is locked.
Result<Song> movePins(const Song& song, ClipId clip, const std::vector<Frames>& takes, Frames by, PinReach reach);

/// Ties places to where they are now; the hits beside them, too, so that a drag of one begins with its neighbours.
Result<Song> addPins(const Song& song, ClipId clip, const std::vector<Frames>& takes);

/// Unties places; between the pins that are left the sound lies evenly. Without pins the clip is as recorded.
Result<Song> removePins(const Song& song, ClipId clip, const std::vector<Frames>& takes);

/// The pins that a hand or a fit set inside what a clip plays, in take time: neither those at its ends nor a timing
/// plan's own are among them.
std::vector<Frames> handPins(const Clip& clip);

/// How much longer the sound is on either side of a place than as recorded: 1 is as recorded, 1.25 a quarter longer.
struct StretchBeside {
  double before = 1;
  double after = 1;
};
StretchBeside stretchBeside(const Clip& clip, Frames take);

}  // namespace ochron

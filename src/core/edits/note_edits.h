#pragma once

#include <vector>

#include "base/result.h"
#include "edits/pin_edits.h"
#include "song/song.h"

namespace ochron {

// Notes of a take's line, changed by hand.

/// The shortest note that can be made by splitting.
inline constexpr double kLeastSplitSeconds = 0.04;

/// One note becomes two, at `seconds` of take time. Both are the user's: they survive a new hearing. Refused while
/// something of the set is locked, or when a part would be shorter than kLeastSplitSeconds.
Result<Song> splitNote(const Song& song, SetId set, const NoteName& note, double seconds);

/// Notes that follow each other become one; what was wished for the first holds for it. Refused for fewer than two, for
/// notes of several takes, or when another one lies in between.
Result<Song> joinNotes(const Song& song, SetId set, const std::vector<NoteName>& notes);

/// What of a note is moved in time.
enum class NotePart { whole, start, end };

/// Moves notes of the clips that play them, or their beginnings or ends alone, by `by` of song time: as pins, so that
/// what is beside them is stretched as `reach` says. Fails like movePins().
Result<Song> moveNotes(const Song& song, SetId set, const std::vector<NoteName>& notes, NotePart part, Frames by,
                       PinReach reach);

/// Silent spans over notes, on the set's tracks; where all of them have one already, those spans go.
Result<Song> silenceNotes(const Song& song, SetId set, const std::vector<NoteName>& notes);

/// What a clip plays of a note, song time; empty when nothing.
FrameRange playedOf(const Clip& clip, const SungNote& note, int rate);

}  // namespace ochron

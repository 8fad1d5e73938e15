#pragma once

#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// How a set's line is tuned. Refused while something of the set is locked.
Result<Song> setTuning(const Song& song, SetId set, const TuneSettings& settings);

/// A wish for some notes. A wish for nothing gives them back to the plan. Refused while something of the set is locked.
Result<Song> setNoteWishes(const Song& song, SetId set, const std::vector<std::pair<NoteName, NoteWish>>& wishes);

/// Keeps what was heard of a take's line.
Result<Song> setLine(const Song& song, TakeId take, SetId set, const SungLine& line);

}  // namespace ochron

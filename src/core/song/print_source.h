#pragma once

#include "song/song.h"

namespace ochron {

/// What the sound of a print hangs on now, besides the clips that it was made of.
PrintedWith printedWith(const Song& song, const Print& print);

/// Why a print would sound otherwise if it were made now, in a few words: "the pitch plan is another one". Empty when
/// it would not, and for a print that an earlier version of the program made.
std::string outOfDate(const Song& song, const Print& print);

}  // namespace ochron

#pragma once

#include <string>
#include <vector>

#include "song/song.h"

namespace ochron {

/// Adds a sentence for every value that lies outside its range (song/ranges.h), so that the song could be written but
/// not read again. What is the same object in `known`, a song that was checked, is not looked at again.
void checkRangesOf(const Song& song, const Song* known, std::vector<std::string>& broken);

}  // namespace ochron

#pragma once

#include <array>

#include "base/result.h"
#include "song/ranges.h"
#include "song/song.h"

namespace ochron {

/// Those that are offered.
inline constexpr std::array kUsualRates{44'100, 48'000, 88'200, 96'000, 176'400, 192'000};

/// The song at another rate: every place and length of the song, of its takes and of its plans at the nearest frame;
/// what touched still touches, and what lay within something still does. Its recordings are to be read again at that
/// rate. The same song at its own rate. Fails beyond the range, and when a piece would be left without a frame.
Result<Song> songAtRate(const Song& song, int rate);

}  // namespace ochron

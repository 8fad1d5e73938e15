#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/result.h"
#include "song/song.h"
#include "time/grid.h"

namespace ochron {

/// A clip struck at a place of the song.
struct Struck {
  ClipId clip;
  Frames at;  ///< song time of its first frame
  double gainDb = 0;
};

/// Lays copies of a set's clips where they were struck, each until the next one begins, over what was there. A timing
/// plan that is on moves them as it moves everything. `until`: where the last one ends at the latest.
Result<Song> layStruck(const Song& song, SetId set, std::vector<Struck> struck, Frames until);

/// What a set plays within a range, kept as a pattern: the lanes stay as they are. The new pattern is the song's last.
/// Refused where the set is silent throughout, and for an empty range.
Result<Song> keepPattern(const Song& song, SetId set, FrameRange range, const std::string& name);
/// Lays a pattern so many times (1 to 1 000) one after the other from a place on, over what was there: on the song's
/// own beats, each time as a bundle of its name.
Result<Song> layPattern(const Song& song, PatternId id, Frames at, int times = 1);
/// Where a pattern laid so often from a place on ends.
Frames patternEnd(const Song& song, const Pattern& pattern, Frames at, int times = 1);
/// Puts a pattern in the place of the one with its id.
Result<Song> changePattern(const Song& song, const Pattern& pattern);
Result<Song> renamePattern(const Song& song, PatternId id, const std::string& name);
/// A second one of the same strokes, named after it; the song's last.
Result<Song> duplicatePattern(const Song& song, PatternId id);
Result<Song> removePattern(const Song& song, PatternId id);

/// A pattern of one stroke, to be drawn on: a clip of the set at its beginning. The new pattern is the song's last.
Result<Song> beginPattern(const Song& song, ClipId clip, Ticks length, const std::string& name);

/// With a clip struck at a place. What is struck within `reach` of it gives way: one slice sounds at a time.
Pattern drawn(Pattern pattern, Clip clip, Ticks at, Ticks reach);
/// Without one of its strokes. Refused for the only one.
Result<Pattern> erased(Pattern pattern, std::size_t stroke);
/// One stroke at another level, dB, kGainRange.
Pattern withGain(Pattern pattern, std::size_t stroke, double gainDb);
/// Longer, or shorter without what lies beyond. Refused when that is all.
Result<Pattern> ofLength(Pattern pattern, Ticks length);
/// The same slices at the same places in another order, by the numbers that `drawing` begins.
Pattern shuffled(Pattern pattern, std::uint32_t drawing);
/// The same drums as the player might have played them once more: each stroke lies off its line of `grid` as another
/// one of this pattern does, and is another stroke of its drum that is about as loud, where there is one.
Pattern varied(const Song& song, Pattern pattern, const Grid& grid, std::uint32_t drawing);

}  // namespace ochron

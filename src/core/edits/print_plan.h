#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// What is to be printed: whole mic sets, ranges of them, or the runs of touching clips that some clips lie in.
struct PrintAsk {
  PrintDepth depth = PrintDepth::clip;
  std::vector<SetId> sets = {};
  ClipIds clips = {};                   ///< with the depth `clip`; empty: all of the sets
  std::vector<FrameRange> ranges = {};  ///< song time, with the depth `clip`: of the sets only what lies in them
  PrintManner manner = {};

  bool operator==(const PrintAsk&) const = default;
};

inline constexpr double kTrimHandleSeconds = 1;  ///< kept to either side of what is used

/// What a print does: said before, then done.
struct PrintPlan {
  Song song;                   ///< that is printed: as it was asked for, cut where a range begins and ends
  std::vector<PrintRow> rows;  ///< the files it would write, set by set, mic by mic
};
/// Refused, with a sentence, where nothing is there to be printed or where layers hang on strokes that would be gone. A
/// range that begins or ends in a crossfade, a fade or the pieces of a plan reaches over all of it.
Result<PrintPlan> planPrint(const Song& song, const PrintAsk& ask);

/// What a depth makes audio of, and what stays, in words.
std::string bakedBy(PrintDepth depth);
std::string adjustableAfter(PrintDepth depth);

}  // namespace ochron

#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// What is to be printed: whole mic sets, or the runs of touching clips that some clips lie in.
struct PrintAsk {
  PrintDepth depth = PrintDepth::clip;
  std::vector<SetId> sets;
  ClipIds clips;  ///< with the depth `clip`; empty: all of the sets
};

inline constexpr double kTrimHandleSeconds = 1;  ///< kept to either side of what is used

/// The files that a print would write, set by set, mic by mic. Refused, with a sentence, where nothing is there to be
/// printed or where layers hang on strokes that would be gone.
Result<std::vector<PrintRow>> printRows(const Song& song, const PrintAsk& ask);
/// What a depth makes audio of, and what stays, in words.
std::string bakedBy(PrintDepth depth);
std::string adjustableAfter(PrintDepth depth);

/// A file of a print, written.
struct PrintedFile {
  PrintRow row;
  std::string path;
  std::string fingerprint;
  Frames length;  ///< at the song's rate
};
/// The song with the files in the place of what they were made of, which is kept with them.
Result<Song> applyPrint(const Song& song, const std::vector<PrintedFile>& files);

/// Takes a print back: what it was made of is alive again. What was done to the print since goes along where it has a
/// meaning there: moved, cut, copied, faded, louder, muted. The printed files stay where they are.
Result<Song> unprint(const Song& song, PrintId print);
/// The song as it was heard where the print was made, alive: the set plays what was printed and nothing else. For
/// listening and comparing. Refused for a trim.
Result<Song> asPrinted(const Song& song, PrintId print);
/// A print that is good as it is: what it would be made with now is what it was made with.
Result<Song> acceptPrint(const Song& song, PrintId print);
/// The prints that a mic set's clips and mics play.
std::vector<PrintId> printsOf(const Song& song, SetId set);

}  // namespace ochron

#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "edits/print_plan.h"
#include "song/song.h"

namespace ochron {

/// A file of a print, written.
struct PrintedFile {
  PrintRow row;
  std::string path;
  std::string fingerprint;
  Frames length;       ///< at the song's rate
  double levelDb = 0;  ///< by which it is louder than what was heard
};
/// The song that was printed (PrintPlan) with the files in the place of what they were made of, which is kept with
/// them.
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

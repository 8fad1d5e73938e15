#pragma once

#include <string>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Names another place where the same recording lies.
Result<Song> relinkMedia(const Song& song, MediaId media, const std::string& path);
/// What a recording turned out to be.
struct FoundMedia {
  std::string path;
  std::string fingerprint;
  int channels = 1;
  int fileRate = 48'000;
  Frames length;  ///< at the song's rate
};
/// Takes another recording in a recording's place. The take becomes longer when it is; where it is shorter there is
/// silence.
Result<Song> replaceMedia(const Song& song, MediaId media, const FoundMedia& found);

}  // namespace ochron

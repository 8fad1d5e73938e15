#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

// Edits are pure functions from a song to a song. An error leaves nothing half done, because nothing is changed in
// place.

struct IncomingFile {
  std::string name;  ///< track name
  std::string path;
  std::string fingerprint;
  int channels = 1;
  int fileRate = 48'000;
  Frames length;  ///< at the song's rate
  std::optional<std::int64_t> timeReference;
  MicRole role = MicRole::none;
  std::optional<double> bpm = {};  ///< as the file says
};

struct ImportSettings {
  std::string takeName;
  Frames at;                           ///< song time of the take's start
  bool honourTimeReference = true;     ///< place files by their BWF time stamps when every file has one
  std::vector<std::vector<int>> sets;  ///< indices of files that form a mic set; the rest stay single
};

/// Adds the files as one take on new tracks, one clip a mic set.
Result<Song> importTake(const Song& song, const std::vector<IncomingFile>& files, const ImportSettings& settings);

/// Brings tracks of one take into one mic set. Fails unless their clips still are whole and lie alike. Hits found for
/// the old sets are dropped with them.
Result<Song> makeMicSet(const Song& song, const std::vector<TrackId>& tracks, const std::string& name);
/// Takes a mic set apart into single tracks with the same clips.
Result<Song> dissolveMicSet(const Song& song, SetId set);

}  // namespace ochron

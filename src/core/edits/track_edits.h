#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

Result<Song> setGuides(const Song& song, SetId set, const std::vector<TrackId>& guides);
Result<Song> setTrack(const Song& song, const Track& track);
Result<Song> removeTracks(const Song& song, const std::vector<TrackId>& tracks);

Result<Song> renameSong(const Song& song, const std::string& name);

/// The set so many places further down on the screen (negative: up), with its tracks. Refused at the ends.
Result<Song> moveSet(const Song& song, SetId set, int by);
Result<Song> renameSet(const Song& song, SetId set, const std::string& name);
Result<Song> renameTake(const Song& song, TakeId take, const std::string& name);
/// The take with every clip that plays it, and with the tracks that hold nothing else. The files stay where they are.
Result<Song> removeTake(const Song& song, TakeId take);

}  // namespace ochron

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

}  // namespace ochron

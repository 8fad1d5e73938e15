#pragma once

#include <string>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

/// Replaces the plan's values only; seams/applyTimingPlan carries it out.
Result<Song> setTimingPlan(const Song& song, SetId set, const TimingPlan& plan);
/// Takes a range of song time out of the plan (what lies there stays as it was played), or puts it back.
Result<Song> leaveAlone(const Song& song, SetId set, FrameRange range, bool alone);

/// Grooves kept with the song; a groove of the same name is replaced.
Result<Song> keepGroove(const Song& song, const Groove& groove);
Result<Song> dropGroove(const Song& song, const std::string& name);

}  // namespace ochron

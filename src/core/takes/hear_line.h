#pragma once

#include <span>

#include "analysis/pitch/one_line.h"
#include "analysis/pitch/pitch.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// A line, and how far the recording is one.
struct HeardLine : SungLine {
  OneLine how;
};

/// Hears a take on a set's mics added up; its hits say where notes begin. Material that is no single line (chords,
/// drums) fails with a sentence that says so, unless `anything` is wanted.
Result<HeardLine> hearLine(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool,
                           const PitchSettings& settings, Progress& progress, bool anything = false);

/// How far it is a line and what lies beside it, in words: "one line for 96 %, with room or noise 22 dB under it; not
/// at 10.4 to 12.1 s".
std::string lineText(const OneLine& line);

}  // namespace ochron

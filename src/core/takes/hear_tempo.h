#pragma once

#include <optional>
#include <string>
#include <vector>

#include "analysis/tempo/tempo.h"
#include "media/pool.h"
#include "song/song.h"
#include "time/tempo_map.h"

namespace ochron {

/// All of a set's mics in a take added up, on take time; what is not at hand is left out.
std::vector<float> mixOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool);

/// What a set plays with all that is played along with it, on the take time of the set: every set as it lies in the
/// song beside it, drums leading (the rest is 6 dB softer than they are, all in all). Sets whose pieces are stretched
/// or turned round are left out. The set alone when nothing plays along.
std::vector<float> bandOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool);

/// The tempo map that a recording was heard to have, its take time being song time: one tempo where it is steady, else
/// a tempo for each bar, so that every bar begins where it was heard to. Bar 1 is the first downbeat. `meter`: none: as
/// heard.
Result<TempoMap> tempoMapOf(const HeardTempo& heard, int rate, std::optional<Meter> meter = {});

/// How steady it was heard to be: "steady", "steady but for bars 9 and 33 to 35", "wandering".
std::string steadyText(const HeardTempo& heard);

/// The meters that were heard, in words: "4/4", "4/4 (bar 13: 2/4)", "4/4 (bars 13 to 24: 3/4)".
std::string metersText(const HeardTempo& heard);

}  // namespace ochron

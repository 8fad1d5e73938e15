#pragma once

#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "checks/checks.h"

namespace ochron {

/// Places of a tempo map made of anchors that deserve a look: an anchor beside the hit it was meant for or between two
/// that it may have been meant for, bars carried on through which nothing was played, a tempo that changes suddenly. In
/// order of place; accepted ones are not listed.
std::vector<Check> tempoChecksOf(const Song& song, const std::map<SetId, TimingResult>& timing);

/// The hit that an anchor was meant for: the nearest one, when it is nearer than 60 ms; song time.
std::optional<Frames> hitOfAnchor(const TempoAnchor& anchor, const std::vector<Frames>& hits, int rate);
/// The hits before and after an anchor, the nearer one first, when both may be what was meant: within 60 ms, and the
/// farther not twice as far.
std::optional<std::pair<Frames, Frames>> hitsAround(const TempoAnchor& anchor, const std::vector<Frames>& hits,
                                                    int rate);
/// Where all hits are now, song time, in order.
std::vector<Frames> placesOfHits(const std::map<SetId, TimingResult>& timing);

}  // namespace ochron

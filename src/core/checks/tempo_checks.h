#pragma once

#include <map>
#include <vector>

#include "checks/checks.h"

namespace ochron {

/// Places of a tempo map made of anchors that deserve a look: an anchor beside the hit it was meant for, a tempo that
/// changes suddenly. In order of place; accepted ones are not listed.
std::vector<Check> tempoChecksOf(const Song& song, const std::map<SetId, TimingResult>& timing);

/// The hit that an anchor was meant for: the nearest one, when it is nearer than 60 ms; song time.
std::optional<Frames> hitOfAnchor(const TempoAnchor& anchor, const std::vector<Frames>& hits, int rate);
/// Where all hits are now, song time, in order.
std::vector<Frames> placesOfHits(const std::map<SetId, TimingResult>& timing);

}  // namespace ochron

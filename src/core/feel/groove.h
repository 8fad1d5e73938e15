#pragma once

#include <string>

#include "feel/plan_timing.h"

namespace ochron {

/// The feel of a set's performance as a groove: for each grid place of the first bar's meter how late (ms) and how loud
/// it is played, over all hits there, and the scatter around that. Places that are never played are 0. Fails when no
/// hit has a grid place.
Result<Groove> takeGroove(const Song& song, SetId set, const std::string& name);

}  // namespace ochron

#pragma once

#include <vector>

#include "checks/checks.h"

namespace ochron {

/// Notes that a pitch plan moves and that deserve a look; one entry each, in order of song time. Notes the user decided
/// about or has accepted are not listed.
std::vector<Check> noteChecksOf(const Song& song, SetId set);

}  // namespace ochron

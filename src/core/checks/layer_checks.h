#pragma once

#include <vector>

#include "checks/checks.h"

namespace ochron {

/// Strokes that lie so near to a layer's threshold that they may be meant otherwise, and layers whose sound weakens the
/// drum as its polarity is set. What the user decided about or has accepted is not listed.
std::vector<Check> layerChecksOf(const Song& song);

}  // namespace ochron

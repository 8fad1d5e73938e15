#pragma once

#include <vector>

#include "checks/checks.h"

namespace ochron {

/// Prints that are heard and would sound otherwise if they were made now, each where it is heard first.
std::vector<Check> printChecksOf(const Song& song);

}  // namespace ochron

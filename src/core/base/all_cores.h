#pragma once

#include <cstddef>
#include <functional>

#include "base/progress.h"

namespace ochron {

/// Does `work` for each of 0 to count - 1, on as many cores as there are but `most` at a time, in order of their
/// beginnings, and returns when all are done. Each has a progress of its own; what they say together is reported, and
/// cancelled from, by the calling thread alone. After a cancel what has not begun is left out.
void onAllCores(std::size_t count, Progress& progress, const std::function<void(std::size_t, Progress&)>& work,
                std::size_t most = 4);

}  // namespace ochron

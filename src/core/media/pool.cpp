#include "media/pool.h"

#include <algorithm>

namespace ochron {

Result<void> stillAsRead(const MediaPool& pool) {
  if (std::any_of(pool.begin(), pool.end(), [](const auto& entry) { return !entry.second->asRead(); }))
    return fail(ErrorKind::ioFailed,
                "A recording was changed while it was in use, so nothing was written. Look at it, then try again.");
  return {};
}

}  // namespace ochron

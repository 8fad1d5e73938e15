#pragma once

#include "base/progress.h"

namespace ochron::test {

/// For work that nobody watches or cancels.
inline Progress& unwatched() {
  static thread_local Progress progress;
  return progress;
}

}  // namespace ochron::test

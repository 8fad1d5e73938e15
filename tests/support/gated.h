#pragma once

#include "gate/gate.h"

namespace ochron::test {

/// What becomes of a song by an edit once it has gone through the gate, as in the window.
inline Result<Song> gated(const Song& before, const Result<Song>& edit, const MediaPool& pool = {}) {
  return edit ? admitted(before, *edit, pool) : edit;
}

}  // namespace ochron::test

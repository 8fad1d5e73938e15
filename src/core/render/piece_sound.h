#pragma once

#include "media/pool.h"
#include "song/joint.h"
#include "song/song.h"

namespace ochron {

class MadeStore;

/// How a set's clips sound, for measuring their joints: made sound as far as the store has it at hand, nothing that
/// stands in for it. Song, pool and store outlive it.
PieceSound pieceSound(const Song& song, SetId set, const MediaPool& pool, const MadeStore* store);

}  // namespace ochron

#pragma once

#include "song/song.h"

namespace ochron {

/// Takes the pieces a plan made together again: the clips as they were before the plan.
ClipList withoutPlan(const ClipList& clips);
/// The whole song as it was before every plan.
Song withoutPlans(const Song& song);

/// The pieces of each plan taken together to the clips they were cut from, in order of start. Clips put in between by
/// hand may overlap with them; resolveOverlaps() settles that.
ClipList mergedPieces(const ClipList& clips);
/// Trims clips that reach into others, so that none overlap. Pieces keep on record what they stand for.
void resolveOverlaps(ClipList& clips);

}  // namespace ochron

#pragma once

#include <array>
#include <vector>

#include "render/render_plan.h"

namespace ochron {

/// What is heard of a stretch of song on some tracks, with their mixer gains, left and right; its last 4 ms fade out.
std::array<std::vector<float>, 2> cellSound(const RenderPlan& plan, FrameRange range, const TrackMask& leftOut);

/// All tracks but those of a set.
TrackMask allBut(const RenderPlan& plan, SetId set);

}  // namespace ochron

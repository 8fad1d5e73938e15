#pragma once

#include <optional>

#include "base/progress.h"
#include "render/render_plan.h"

namespace ochron {

/// How loud a stretch of a plan's mix is, LUFS (ITU-R BS.1770-4, gated, by libebur128), measured at places spread over
/// it evenly: a minute of sound at most. None when it is silent, and when cancelled.
std::optional<double> loudnessOf(const RenderPlan& plan, FrameRange range, Progress& progress);

}  // namespace ochron

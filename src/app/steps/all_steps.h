#pragma once

#include <vector>

#include "panel/step_page.h"

namespace ochron {

/// All steps in working order. A new step stands here and nowhere else.
std::vector<StepEntry> makeSteps(Document& document, QWidget* parent);

}  // namespace ochron

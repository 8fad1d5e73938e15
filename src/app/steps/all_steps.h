#pragma once

#include <vector>

#include "steps/step_page.h"

namespace ochron {

/// A step with its name.
struct StepEntry {
  Step step;
  QString name;
  StepPage* page;
};
/// All steps in working order. A new step stands here and nowhere else.
std::vector<StepEntry> makeSteps(Document& document, QWidget* parent);

}  // namespace ochron

#include "panel/step_page.h"

#include <algorithm>

#include "document/attention.h"

namespace ochron {

int StepPage::checksOf(CheckGroup group) const {
  const auto& checks = doc_.attention().checks();
  return static_cast<int>(
      std::count_if(checks.begin(), checks.end(), [&](const Check& c) { return groupOf(c.kind) == group; }));
}

}  // namespace ochron

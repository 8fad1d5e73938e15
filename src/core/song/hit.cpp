#include "song/hit.h"

#include <algorithm>
#include <cmath>

namespace ochron {

double strengthThreshold(double sensitivity) {
  const double x = 1.0 - std::clamp(sensitivity, 0.0, 100.0) / 100.0;
  return std::pow(x, 4.3219);  // 0.5 -> 0.05
}

HitList activeHits(const HitList& all, const HitSettings& settings, int rate) {
  const double threshold = strengthThreshold(settings.sensitivity);
  const auto spacing = static_cast<std::int64_t>(settings.minSpacingMs * rate / 1000.0);
  HitList out;
  for (const auto& h : all) {
    if (h.origin == HitOrigin::removed) continue;
    if (h.origin == HitOrigin::detected && h.strength < threshold) continue;
    // Of two that stand closer than the spacing on the same guide the stronger stays, unless the user placed one.
    if (!out.empty() && h.origin == HitOrigin::detected && out.back().origin == HitOrigin::detected &&
        (h.at - out.back().at).value < spacing && !h.heardBy.empty() && !out.back().heardBy.empty() &&
        h.heardBy.front() == out.back().heardBy.front()) {
      // A flam's grace note is a hit of its own: only what is much weaker and later (a ring, a rebound) goes.
      if (h.strength < 0.5 * out.back().strength) continue;
    }
    out.push_back(h);
  }
  return out;
}

}  // namespace ochron

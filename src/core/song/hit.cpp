#include "song/hit.h"

#include <algorithm>
#include <cmath>

namespace ochron {

double strengthThreshold(double sensitivity) {
  const double x = 1.0 - std::clamp(sensitivity, 0.0, 100.0) / 100.0;
  return std::pow(x, 4.3219);  // 0.5 -> 0.05
}

HitReach reachOf(const Hit& hit) {
  HitReach out{hit.at, hit.at};
  for (const auto& s : hit.strokes) {
    out.first = std::min(out.first, s.at);
    out.last = std::max(out.last, s.at);
  }
  return out;
}

std::vector<DrumStroke> strokesOf(const Hit& h) {
  return h.strokes.empty() ? std::vector{DrumStroke{h.at, h.drum, h.strength}} : h.strokes;
}

double guideThreshold(const HitSettings& settings, TrackId track) {
  const auto guide = settings.guide(track);
  if (guide.weight <= 0) return 2.0;
  return strengthThreshold(settings.sensitivity + guide.sensitivity) * 100.0 / guide.weight;
}

HitList activeHits(const HitList& all, const HitSettings& settings, int rate) {
  return activeHits(all, settings, rate, {Frames{INT64_MIN}, Frames{INT64_MAX}});
}

HitList activeHits(const HitList& all, const HitSettings& settings, int rate, FrameRange within) {
  const double threshold = strengthThreshold(settings.sensitivity);
  const auto counts = [&](const Hit& h) {
    if (h.heardBy.empty()) return h.strength >= threshold;
    return std::any_of(h.heardBy.begin(), h.heardBy.end(),
                       [&](const Heard& g) { return g.strength >= guideThreshold(settings, g.track); });
  };
  const auto spacing = static_cast<std::int64_t>(settings.minSpacingMs * rate / 1000.0);
  HitList out;
  const Hit* last = nullptr;  // that counted, within or before
  for (const auto& h : all) {
    if (h.at >= within.end) break;
    if (h.origin == HitOrigin::removed) continue;
    if (h.origin == HitOrigin::detected && !counts(h)) continue;
    // Of two that stand closer than the spacing on the same guide the stronger stays, unless the user placed one.
    if (last && h.origin == HitOrigin::detected && last->origin == HitOrigin::detected &&
        (h.at - last->at).value < spacing && !h.heardBy.empty() && !last->heardBy.empty() &&
        h.heardBy.front().track == last->heardBy.front().track) {
      // A flam's grace note is a hit of its own: only what is much weaker and later (a ring, a rebound) goes.
      if (h.strength < 0.5 * last->strength) continue;
    }
    last = &h;
    if (h.at >= within.start) out.push_back(h);
  }
  return out;
}

}  // namespace ochron

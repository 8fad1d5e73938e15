#include "seams/checks.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

namespace ochron {
namespace {

constexpr double kDoubtful = 0.45;  // confidence below which a hit is worth a look
constexpr double kFarMoveMs = 30;
constexpr double kShortSeamMs = 1.5;  // a crossfade squeezed below this may be heard

template <class... A>
std::string text(const char* format, A... values) {
  char buffer[160];
  std::snprintf(buffer, sizeof buffer, format, values...);
  return buffer;
}

}  // namespace

std::vector<Check> checksOf(const Song& song, SetId id, const TimingResult& timing) {
  std::vector<Check> out;
  const auto* set = song.find(id);
  if (!set) return out;
  std::map<HitId, const Clip*> pieces;
  for (const auto& c : *set->clips)
    if (c.piece && c.piece->hit) pieces[c.piece->hit] = &c;
  for (std::size_t i = 0; i < timing.hits.size(); ++i) {
    const auto& h = timing.hits[i];
    if (h.byHand || h.out) continue;
    const auto add = [&](CheckKind kind, double risk, std::string title, std::string detail) {
      out.push_back({kind, h.take, h.hit.id, h.to(), std::clamp(risk, 0.0, 1.0), std::move(title), std::move(detail)});
    };
    if (h.hit.origin == HitOrigin::detected && h.hit.confidence < kDoubtful)
      add(CheckKind::weakHit, 0.55 * (1 - h.hit.confidence), "weak hit",
          text("ghost note or bleed? %.0f %% sure", 100 * h.hit.confidence));
    if (h.unplaced && h.leader == i)
      add(CheckKind::twoHitsOnePlace, 0.8, "two hits, one place",
          "moves with the hit before; no grid place of its own");
    const double ms = static_cast<double>(h.move.value) * 1000 / song.rate;
    if (h.leader == i && std::abs(ms) > kFarMoveMs)
      add(CheckKind::farMove, std::abs(ms) / 100, "far move",
          text("%.0f ms %s%s", std::abs(ms), ms > 0 ? "later" : "earlier",
               h.limited ? ", cut short by the limit" : ""));
    const auto found = pieces.find(h.hit.id);
    if (found == pieces.end()) continue;
    const auto& seam = found->second->seam;
    const double fade = static_cast<double>((seam.before + seam.after).value) * 1000 / song.rate;
    if (seam.fill == SeamFill::faded)
      add(CheckKind::fadedGap, 0.95, "gap with nothing to fill it", "fades out and in before this hit");
    else if (fade < kShortSeamMs)
      add(CheckKind::shortSeam, 0.7, "very short seam", text("%.1f ms of crossfade close to an attack", fade));
  }
  std::stable_sort(out.begin(), out.end(), [](const Check& a, const Check& b) { return a.risk > b.risk; });
  return out;
}

}  // namespace ochron

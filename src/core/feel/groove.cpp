#include "feel/groove.h"

#include <algorithm>

#include "feel/given_feel.h"

namespace ochron {

Result<Groove> takeGroove(const Song& song, SetId id, const std::string& name) {
  const auto* set = song.find(id);
  if (!set) return fail(ErrorKind::notFound, "This mic set is not in the song any more.");
  Groove g;
  g.name = name;
  g.grid = set->plan->settings.grid;
  g.grid.swing = 50;  // where the hits are says it all: swing is part of the pocket
  g.meter = song.tempo.meterOfBar(0);
  const auto step = g.grid.step();
  const auto places = static_cast<std::size_t>((g.meter.barLength().value + step.value - 1) / step.value);
  g.offsetsMs.assign(places, 0.0);
  g.loudness.assign(places, 0.0);
  g.scatterMs.resize(places);
  std::vector<int> count(places, 0);
  const auto timing = planTiming(song, id);
  for (std::size_t i = 0; i < timing.hits.size(); ++i) {
    const auto& h = timing.hits[i];
    if (h.leader != i || !h.line || !(song.tempo.meterOfBar(h.line->bar) == g.meter)) continue;
    const auto place = static_cast<std::size_t>(h.line->place);
    if (place >= places) continue;
    // Against the straight line: a plan with swing has its own lines elsewhere.
    const auto straight = song.tempo.toFrames(song.tempo.barStart(h.line->bar) + step * h.line->place);
    g.offsetsMs[place] += h.pocketMs + msFromFrames(h.line->frame - straight, song.rate);
    g.loudness[place] += h.hit.strength;
    ++count[place];
    g.scatterMs[place].push_back(h.scatterMs);
  }
  if (std::all_of(count.begin(), count.end(), [](int n) { return n == 0; }))
    return fail(ErrorKind::refused, "There is no hit on the grid to take a groove from. Find hits first.");
  average(g, count);
  return g;
}

}  // namespace ochron

#include "feel/standing.h"

#include <algorithm>
#include <map>

namespace ochron {

std::vector<StandingHit> standingHits(const Song& song, const MicSet& set, const ClipList& clips, FrameRange within) {
  std::vector<StandingHit> out;
  const auto first =
      std::partition_point(clips.begin(), clips.end(), [&](const Clip& c) { return c.end() <= within.start; });
  const auto last = std::partition_point(first, clips.end(), [&](const Clip& c) { return c.start < within.end; });
  const auto sounds = [](const Clip& c) { return !c.reversed && c.extras->ofItsTake(); };
  std::map<TakeId, FrameRange> played;
  for (auto c = first; c != last; ++c) {
    if (!sounds(*c)) continue;
    auto& range = played.try_emplace(c->take, c->played()).first->second;
    range = {std::min(range.start, c->played().start), std::max(range.end, c->played().end)};
  }
  std::map<TakeId, HitList> hits;
  for (const auto& [take, range] : played)
    hits[take] = activeHits(*song.hitsOf(take, set.id), set.hits, song.rate, range);
  for (auto c = first; c != last; ++c) {
    if (!sounds(*c)) continue;
    const auto& all = hits[c->take];
    const auto range = c->played();
    for (auto h = std::partition_point(all.begin(), all.end(), [&](const Hit& x) { return x.at < range.start; });
         h != all.end() && h->at < range.end; ++h)
      if (const auto at = c->toSong(h->at); within.contains(at))
        out.push_back({h->id, c->take, c->id, at, h->heardBy.empty() ? TrackId{} : h->heardBy.front().track});
  }
  return out;
}

}  // namespace ochron

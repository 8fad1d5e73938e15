#include "kit/slices.h"

#include <algorithm>

namespace ochron {
namespace {

constexpr double kBeginsMs = 10;  // either way

}  // namespace

std::vector<Slice> slicesAtHits(const Song& song, TakeId take, SetId set, FrameRange within) {
  std::vector<Slice> out;
  for (const auto& h : activeHits(*song.hitsOf(take, set), song.find(set)->hits, song.rate, within)) {
    if (!out.empty()) out.back().range.end = h.at;
    out.push_back({{h.at, within.end}, h.drum, h.strength, h.id});
  }
  std::erase_if(out, [](const Slice& s) { return s.range.empty(); });
  return out;
}

std::vector<Slice> slicesAt(const Song& song, TakeId take, SetId set, FrameRange within,
                            const std::vector<Frames>& places) {
  const auto hits = activeHits(*song.hitsOf(take, set), song.find(set)->hits, song.rate, within);
  const auto near = framesFromMs(kBeginsMs, song.rate);
  std::vector<Slice> out;
  for (const auto at : places) {
    if (!within.contains(at)) continue;
    if (!out.empty()) out.back().range.end = at;
    Slice s{{at, within.end}, DrumClass::other, 0, {}};
    for (auto h = std::lower_bound(hits.begin(), hits.end(), at - near, [](const Hit&x, Frames f) { return x.at < f; });
         h != hits.end() && h->at <= at + near; ++h)
      if (h->strength > s.strength) s = {s.range, h->drum, h->strength, h->id};
    out.push_back(s);
  }
  std::erase_if(out, [](const Slice& s) { return s.range.empty(); });
  return out;
}

}  // namespace ochron

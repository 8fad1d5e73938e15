#include "edits/pieces.h"

#include <algorithm>
#include <map>
#include <set>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

bool joins(const Clip& a, const Clip& b) {
  return a.piece && b.piece && a.take == b.take && a.piece->origin == b.piece->origin &&
         a.piece->home == b.piece->home && a.piece->covers.end == b.piece->covers.start && a.piece->map == b.piece->map;
}

Clip whole(const Clip& first, const Clip& last) {
  Clip c = first;
  c.id = first.piece->origin;
  c.source = first.piece->covers.start;
  c.length = last.piece->covers.end - first.piece->covers.start;
  c.start = c.source + first.piece->home;
  c.fadeOut = last.fadeOut;
  c.map = first.piece->map;
  c.piece.reset();
  fitFades(c);
  return c;
}

}  // namespace

ClipList withoutPlan(const ClipList& clips) {
  if (std::none_of(clips.begin(), clips.end(), [](const Clip& c) { return c.piece.has_value(); })) return clips;
  auto out = mergedPieces(clips);
  resolveOverlaps(out);
  return out;
}

void resolveOverlaps(ClipList& clips) {
  ClipList out;
  out.reserve(clips.size());
  constexpr Frames kNone{INT64_MAX};
  Frames hidden = kNone;  // where a piece out of sight begins: the next piece stands for it too
  for (auto c : clips) {
    if (c.piece) c.piece->covers.start = std::min(hidden, c.piece->covers.start);
    hidden = kNone;
    bool inSight = true;
    while (inSight && !out.empty() && c.start < out.back().end()) {
      auto& back = out.back();
      const bool reachesOn = c.end() > back.end();
      if (reachesOn && (c.piece || !back.piece)) {
        const auto covers = c.piece ? c.piece->covers : FrameRange{};
        c = partOf(c, {back.end(), c.end()});
        if (c.piece) c.piece->covers = covers;
      } else if (c.piece) {
        hidden = c.piece->covers.start;
        inSight = false;
      } else {  // put there by hand: what lies under it gives way
        back.length = c.start - back.start;
        if (back.length.value <= 0)
          out.pop_back();
        else
          fitFades(back);
      }
    }
    if (inSight) out.push_back(c);
  }
  clips = std::move(out);
}

ClipList mergedPieces(const ClipList& clips) {
  ClipList out;
  out.reserve(clips.size());
  std::map<ClipId, std::size_t> owner;  // the run that a clip of this name is in now
  std::vector<std::size_t> firsts;
  for (std::size_t i = 0; i < clips.size(); ++i) {
    if (i == 0 || !joins(clips[i - 1], clips[i])) firsts.push_back(i);
    owner[clips[i].id] = firsts.size() - 1;
  }
  std::set<ClipId> used;
  for (std::size_t r = 0; r < firsts.size(); ++r) {
    const auto& first = clips[firsts[r]];
    const auto& last = clips[r + 1 < firsts.size() ? firsts[r + 1] - 1 : clips.size() - 1];
    if (!first.piece) {
      out.push_back(first);
      continue;
    }
    auto run = whole(first, last);
    // What is left of a piece that sounds on over a gap, once the rest is gone, stands for nothing.
    if (run.length.value <= 0) continue;
    // When a piece between was taken out, two runs have one origin: the second goes by the name of its first piece. So
    // does a run whose origin's name another clip bears.
    const auto other = owner.find(run.id);
    if ((other != owner.end() && other->second != r) || !used.insert(run.id).second) run.id = first.id;
    out.push_back(std::move(run));
  }
  sortByStart(out);
  return out;
}

Song withoutPlans(const Song& song) {
  Song plain = song;
  for (auto& s : plain.sets) s.clips = withoutPlan(*s.clips);
  for (auto& l : plain.layers) l.on = false;
  return plain;
}

}  // namespace ochron

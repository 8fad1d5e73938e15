#include "edits/clip_edits.h"

#include <algorithm>
#include <map>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

tl::unexpected<Error> nothingToCut() {
  return fail(ErrorKind::refused,
              "There is no clip to split here. Put the play position or the pointer inside a clip.");
}

/// The overlap of an earlier and a later clip becomes a crossfade; they meet in its middle.
void joinOver(Clip& earlier, Clip& later) {
  const auto overlap = earlier.end() - later.start;
  const auto middle = later.start + overlap / 2;
  const auto before = middle - later.start;
  const auto after = earlier.end() - middle;
  moveStart(later, before);
  moveEnd(earlier, -after);
  later.seam = {before, after, CrossfadeLaw::matched, FadeShape::line, 0, SeamFill::none};
  later.fadeIn = {};
  earlier.fadeOut = {};
  fitFades(earlier);
  fitFades(later);
}

/// Where a clip reaches into one of `rest` (sorted), or one of them into it, they crossfade.
void joinInto(ClipList& rest, Clip& clip) {
  const auto at = std::partition_point(rest.begin(), rest.end(), [&](const Clip& c) { return c.end() <= clip.start; });
  const auto last = std::partition_point(at, rest.end(), [&](const Clip& c) { return c.start < clip.end(); });
  if (at == last) return;
  Clip* before = at->start < clip.start && at->end() < clip.end() ? &*at : nullptr;
  auto& end = *(last - 1);
  Clip* after = end.start > clip.start && end.end() > clip.end() ? &end : nullptr;
  const auto overlap = [](const Clip* a, const Clip* b) { return a && b ? a->end() - b->start : Frames{}; };
  // Both overlaps must leave something of the clip between them.
  const auto spare = clip.length - overlap(before, &clip) / 2 - (overlap(&clip, after) + Frames{1}) / 2;
  if (spare.value < 2) return;
  if (overlap(before, &clip).value >= 2) joinOver(*before, clip);
  if (overlap(&clip, after).value >= 2) joinOver(clip, *after);
}

/// Puts clips, sorted and apart from each other, over what is there, in one pass.
void placeApart(Song& song, ClipList& rest, ClipList moved, Overlap overlap) {
  if (overlap == Overlap::crossfade)
    for (auto& c : moved) joinInto(rest, c);
  ClipList kept;
  kept.reserve(rest.size() + moved.size());
  auto over = moved.begin();
  for (const auto& c : rest) {
    while (over != moved.end() && over->end() <= c.start) ++over;
    auto from = c.start;
    bool first = true;
    const auto keep = [&](Frames to) {
      if (to <= from) return;
      kept.push_back(from == c.start && to == c.end() ? c : partOf(c, {from, to}));
      if (!first) kept.back().id = song.newId<ClipTag>();
      first = false;
    };
    for (auto m = over; m != moved.end() && m->start < c.end(); ++m) {
      keep(m->start);
      from = std::max(from, m->end());
    }
    keep(c.end());
  }
  ClipList out;
  out.reserve(kept.size() + moved.size());
  std::merge(kept.begin(), kept.end(), moved.begin(), moved.end(), std::back_inserter(out),
             [](const Clip& a, const Clip& b) { return a.start < b.start; });
  rest = std::move(out);
}

/// Puts clips, sorted by start, over what is there; of clips that lie over each other the later one is kept whole.
void placeAll(Song& song, ClipList& rest, const ClipList& moved, Overlap overlap) {
  const auto apart = std::adjacent_find(moved.begin(), moved.end(),
                                        [](const Clip& a, const Clip& b) { return a.end() > b.start; }) == moved.end();
  if (apart) return placeApart(song, rest, moved, overlap);
  for (const auto& c : moved) placeApart(song, rest, {c}, overlap);
}

/// Whether every clip of a list moves by the same frames.
bool allTogether(const ClipList& clips, const std::map<ClipId, Frames>& by) {
  const auto first = by.find(clips.front().id);
  return first != by.end() && std::all_of(clips.begin(), clips.end(), [&](const Clip& c) {
           const auto own = by.find(c.id);
           return own != by.end() && own->second == first->second;
         });
}

/// Runs `change(clip, index)` on every chosen clip, in order, after it was taken out of the plan.
template <class F>
Result<Song> eachClip(const Song& song, const ClipIds& ids, F&& change) {
  return withClips(song, ids, [&](Song& next, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    takeOutOfPlan(set, clips, chosen);
    for (std::size_t i = 0; i < clips.size(); ++i) {
      if (!chosen.contains(clips[i].id)) continue;
      change(clips, i);
      fitFades(clips[i]);
    }
    tidySeams(next, clips);
    return {};
  });
}

}  // namespace

Result<Song> splitAt(const Song& song, SetId id, const std::vector<Frames>& at, Frames crossfade) {
  return withSet(song, id, [&](Song& next, MicSet& set) -> Result<void> {
    auto places = at;
    std::sort(places.begin(), places.end());
    places.erase(std::unique(places.begin(), places.end()), places.end());
    ClipList out;
    out.reserve(set.clips->size() + places.size());
    for (const auto& clip : *set.clips) {
      Clip rest = clip;
      for (auto p = std::upper_bound(places.begin(), places.end(), clip.start); p != places.end() && *p < clip.end();
           ++p) {
        auto right = partOf(rest, {*p, rest.end()});
        right.id = next.newId<ClipTag>();
        out.push_back(partOf(rest, {rest.start, *p}));
        right.seam.before = std::min(crossfade / 2, out.back().length);
        right.seam.after = std::min(crossfade - crossfade / 2, right.length);
        right.seam.law = CrossfadeLaw::equalGain;  // both sides are the same sound until one of them moves
        rest = std::move(right);
      }
      out.push_back(std::move(rest));
    }
    if (out.size() == set.clips->size()) return nothingToCut();
    set.clips = std::move(out);
    return {};
  });
}

Result<Song> moveEach(const Song& song, const std::vector<std::pair<ClipId, Frames>>& moves, Overlap overlap) {
  ClipIds ids;
  std::map<ClipId, Frames> by;
  for (const auto& [id, frames] : moves) {
    ids.push_back(id);
    by[id] = frames;
  }
  return withClips(song, ids, [&](Song& next, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    if (allTogether(clips, by)) {  // the whole set moves: its plan goes with it
      for (auto& c : clips) moveAlong(c, by[c.id]);
      return {};
    }
    takeOutOfPlan(set, clips, chosen);
    ClipList rest;
    ClipList moved;
    for (const auto& c : clips) (chosen.contains(c.id) ? moved : rest).push_back(c);
    for (auto& c : moved) c.start += by[c.id];
    sortByStart(moved);
    // Seams between clips that move together stay; those towards clips that stay are gone.
    for (std::size_t i = 0; i < moved.size(); ++i)
      if (i == 0 || moved[i - 1].end() != moved[i].start) moved[i].seam = {};
    placeAll(next, rest, moved, overlap);
    tidySeams(next, rest);
    clips = std::move(rest);
    return {};
  });
}

Result<Song> moveClips(const Song& song, const ClipIds& ids, Frames by, Overlap overlap) {
  std::vector<std::pair<ClipId, Frames>> moves;
  moves.reserve(ids.size());
  for (const auto id : ids) moves.emplace_back(id, by);
  return moveEach(song, moves, overlap);
}

std::vector<SetId> setsInOrder(const Song& song) {
  std::vector<SetId> out;
  for (const auto& t : song.tracks)
    if (const auto* s = song.setOf(t.id); s && std::find(out.begin(), out.end(), s->id) == out.end())
      out.push_back(s->id);
  return out;
}

Result<Song> moveClipsAcross(const Song& song, const ClipIds& ids, Frames by, int rows, Overlap overlap) {
  if (rows == 0) return moveClips(song, ids, by, overlap);
  const auto order = setsInOrder(song);
  std::map<SetId, ClipList> arriving;
  for (const auto id : ids) {
    const auto* from = song.setOf(id);
    if (!from) return clipGone();
    const auto row = std::find(order.begin(), order.end(), from->id) - order.begin() + rows;
    if (row < 0 || row >= std::ssize(order))
      return fail(ErrorKind::refused, "There is no track there to move \"" + from->name + "\" to.");
    auto clip = onSet(song, *song.find(id), *from, *song.find(order[static_cast<std::size_t>(row)]));
    if (!clip) return tl::unexpected(clip.error());
    clip->start += by;
    clip->seam = {};
    clip->piece.reset();
    arriving[order[static_cast<std::size_t>(row)]].push_back(*clip);
  }
  auto next = deleteClips(song, ids, false);
  for (auto& [set, clips] : arriving) {
    if (!next) break;
    next = withSet(*next, set, [&, &clips = clips](Song& s, MicSet& to) -> Result<void> {
      ClipList list = *to.clips;
      sortByStart(clips);
      placeAll(s, list, clips, overlap);
      tidySeams(s, list);
      to.clips = std::move(list);
      return {};
    });
  }
  // Bundles that were empty in between are still meant.
  if (next && next->bundles.size() != song.bundles.size()) {
    next->bundles = song.bundles;
    dropEmptyBundles(*next);
  }
  return next;
}

Result<Song> trimStarts(const Song& song, const ClipIds& ids, const ByClip& by, bool closeGaps) {
  return eachClip(song, ids, [&](ClipList& clips, std::size_t i) {
    auto& c = clips[i];
    auto first = c.start - c.handleBefore(song.takeLength(c));
    if (i > 0 && !closeGaps) first = std::max(first, clips[i - 1].end());
    const auto to = std::clamp(c.start + by(c), std::min(first, c.start), c.end() - Frames{1});
    const auto did = to - c.start;
    if (did.value == 0) return;
    moveStart(c, did);
    c.seam = {};
    if (closeGaps)
      for (auto k = i; k < clips.size(); ++k) moveAlong(clips[k], -did);
  });
}

Result<Song> trimEnds(const Song& song, const ClipIds& ids, const ByClip& by, bool closeGaps) {
  return eachClip(song, ids, [&](ClipList& clips, std::size_t i) {
    auto& c = clips[i];
    auto last = c.end() + c.handleAfter(song.takeLength(c));
    if (i + 1 < clips.size() && !closeGaps) last = std::min(last, clips[i + 1].start);
    const auto to = std::clamp(c.end() + by(c), c.start + Frames{1}, std::max(last, c.end()));
    const auto did = to - c.end();
    moveEnd(c, did);
    if (closeGaps)
      for (auto k = i + 1; k < clips.size(); ++k) moveAlong(clips[k], did);
  });
}

Result<Song> slipClips(const Song& song, const ClipIds& ids, const ByClip& by) {
  return eachClip(song, ids, [&](ClipList& clips, std::size_t i) {
    auto& c = clips[i];
    const auto later = c.reversed ? c.handleBefore(song.takeLength(c)) : c.handleAfter(song.takeLength(c));
    const auto earlier = c.reversed ? c.handleAfter(song.takeLength(c)) : c.handleBefore(song.takeLength(c));
    c.source += std::clamp(c.reversed ? by(c) : -by(c), -earlier, later);
  });
}

Result<Song> slideClips(const Song& song, const ClipIds& ids, Frames by) {
  return withClips(song, ids, [&](Song& next, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    for (std::size_t i = 0; i < clips.size(); ++i) {
      if (!chosen.contains(clips[i].id)) continue;
      auto last = i;  // a run of clips that touch slides as one
      while (last + 1 < clips.size() && chosen.contains(clips[last + 1].id) &&
             clips[last].end() == clips[last + 1].start)
        ++last;
      Clip* before = i > 0 ? &clips[i - 1] : nullptr;
      Clip* after = last + 1 < clips.size() ? &clips[last + 1] : nullptr;
      const bool touchBefore = before && before->end() == clips[i].start;
      const bool touchAfter = after && clips[last].end() == after->start;
      Frames most{INT64_MAX / 4};
      Frames least{INT64_MIN / 4};
      if (touchBefore)
        most = std::min(most, before->handleAfter(song.takeLength(*before))),
        least = std::max(least, Frames{1} - before->length);
      else if (before)
        least = std::max(least, before->end() - clips[i].start);
      if (touchAfter)
        most = std::min(most, after->length - Frames{1}),
        least = std::max(least, -after->handleBefore(song.takeLength(*after)));
      else if (after)
        most = std::min(most, after->start - clips[last].end());
      const auto did = std::clamp(by, std::min(least, Frames{0}), std::max(most, Frames{0}));
      ChosenClips touched = chosen;
      if (touchBefore) {
        touched.insert(before->id);
        moveEnd(*before, did);
        fitFades(*before);
      }
      if (touchAfter) {
        touched.insert(after->id);
        moveStart(*after, did);
        fitFades(*after);
      }
      takeOutOfPlan(set, clips, touched);
      for (auto k = i; k <= last; ++k) clips[k].start += did;
      i = last;
    }
    tidySeams(next, clips);
    return {};
  });
}

Result<Song> deleteClips(const Song& song, const ClipIds& ids, bool closeGaps) {
  return withClips(song, ids, [&](Song& next, MicSet&, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    ClipList kept;
    Frames closed;
    for (auto& c : clips) {
      if (chosen.contains(c.id)) {
        if (closeGaps) closed += c.length;
        continue;
      }
      moveAlong(c, -closed);
      kept.push_back(std::move(c));
    }
    tidySeams(next, kept);
    clips = std::move(kept);
    return {};
  });
}

Result<Song> deleteRange(const Song& song, const std::vector<SetId>& sets, FrameRange range, bool closeGaps) {
  Result<Song> next = song;
  bool any = false;
  for (const auto id : sets) {
    if (!next) break;
    next = withSet(*next, id, [&](Song& s, MicSet& set) -> Result<void> {
      ClipList clips = *set.clips;
      for (const auto& c : clips) any = any || c.range().overlaps(range);
      clearRange(s, clips, range);
      if (closeGaps)
        for (auto& c : clips)
          if (c.start >= range.end) moveAlong(c, -range.length());
      tidySeams(s, clips);
      set.clips = std::move(clips);
      return {};
    });
  }
  if (next && !any) return fail(ErrorKind::refused, "The range holds no clip. Drag over the lanes to choose another.");
  return next;
}

Result<Song> closeGapsBefore(const Song& song, const ClipIds& ids) {
  return withClips(song, ids, [&](Song& next, MicSet&, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    Frames closed;
    for (std::size_t i = 0; i < clips.size(); ++i) {
      if (i > 0 && chosen.contains(clips[i].id)) closed = clips[i].start - clips[i - 1].end();
      moveAlong(clips[i], -closed);
    }
    tidySeams(next, clips);
    return {};
  });
}

Result<Song> reverseClips(const Song& song, const ClipIds& ids) {
  return eachClip(song, ids, [&](ClipList& clips, std::size_t i) {
    auto& c = clips[i];
    c.reversed = !c.reversed;
    c.seam.law = CrossfadeLaw::matched;
    if (i + 1 < clips.size()) clips[i + 1].seam.law = CrossfadeLaw::matched;
  });
}

Result<Song> swapClips(const Song& song, ClipId first, ClipId second) {
  const auto* a = song.find(first);
  const auto* b = song.find(second);
  if (!a || !b) return clipGone();
  if (first == second) return fail(ErrorKind::refused, "Choose two clips to swap.");
  const auto* setA = song.setOf(first);
  const auto* setB = song.setOf(second);
  if (setA != setB) {
    const auto order = setsInOrder(song);
    const auto row = [&](const MicSet* s) {
      return static_cast<int>(std::find(order.begin(), order.end(), s->id) - order.begin());
    };
    // One steps aside to where nothing is, so that neither covers the other.
    const auto aside = song.end() + Frames{1};
    const int rows = row(setB) - row(setA);
    auto next = moveClips(song, {second}, aside - b->start);
    if (next) next = moveClipsAcross(*next, {first}, b->start - a->start, rows, Overlap::cover);
    return next ? moveClipsAcross(*next, {second}, a->start - aside, -rows, Overlap::cover) : next;
  }
  if (a->start > b->start) std::swap(a, b);
  std::vector<std::pair<ClipId, Frames>> moves{{a->id, b->end() - a->length - a->start}, {b->id, a->start - b->start}};
  for (const auto& c : *setA->clips)
    if (c.start > a->start && c.start < b->start) moves.emplace_back(c.id, b->length - a->length);
  return moveEach(song, moves);
}

void changeExtras(Clip& clip, const std::function<void(ClipExtras&)>& change) {
  ClipExtras extras = *clip.extras;
  change(extras);
  if (extras != *clip.extras) clip.extras = std::move(extras);
}

Result<Song> changeClips(const Song& song, const ClipIds& ids, const std::function<void(Clip&)>& change) {
  return withClips(song, ids, [&](Song&, MicSet&, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
    for (auto& c : clips) {
      if (!chosen.contains(c.id)) continue;
      change(c);
      if (!kGainRange.accepts(c.gainDb) || !kPanRange.accepts(c.pan))
        return fail(ErrorKind::badInput, "Gain goes from -60 to 24 dB and pan from -100 to 100.");
    }
    return {};
  });
}

Frames anchorOf(const Song& song, const MicSet& set, const Clip& clip) {
  if (clip.extras->sync) return clip.toSong(*clip.extras->sync);
  const auto heard = clip.played();
  std::optional<Frames> first;
  for (const auto& h : activeHits(*song.hitsIn(set, clip), set.hits, song.rate))
    if (heard.contains(h.at)) first = std::min(first.value_or(clip.end()), clip.toSong(h.at));
  return first.value_or(clip.start);
}

}  // namespace ochron

#include <algorithm>
#include <map>
#include <set>

#include "song/edit_tools.h"
#include "song/edits.h"

namespace ochron {
namespace {

bool listed(const std::vector<ClipId>& ids, ClipId id) { return std::find(ids.begin(), ids.end(), id) != ids.end(); }

tl::unexpected<Error> clipGone() { return fail(ErrorKind::notFound, "This clip is not in the song any more."); }

tl::unexpected<Error> stretchedRefusal() {
  return fail(
      ErrorKind::refused,
      "This clip is stretched by the timing plan. Turn the plan off, or choose slices, to change the clip itself.");
}

auto findClip(ClipList& clips, ClipId id) {
  return std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
}

/// A clip changed by hand is no longer the plan's: later runs leave it alone.
void takeOutOfPlan(MicSet& set, Clip& clip) {
  if (!clip.piece) return;
  if (clip.piece->hit) {
    TimingPlan plan = *set.plan;
    plan.overrides[clip.piece->hit].out = true;
    set.plan = std::move(plan);
  }
  clip.piece.reset();
}

bool joins(const Clip& a, const Clip& b) {
  return a.piece && b.piece && a.take == b.take && a.piece->origin == b.piece->origin &&
         a.piece->home == b.piece->home && a.piece->covers.end == b.piece->covers.start;
}

Clip whole(const Clip& first, const Clip& last) {
  Clip c = first;
  c.id = first.piece->origin;
  c.source = first.piece->covers.start;
  c.length = last.piece->covers.end - first.piece->covers.start;
  c.start = c.source + first.piece->home;
  c.fadeOut = last.fadeOut;
  c.pins = {};
  c.piece.reset();
  fitFades(c);
  return c;
}

}  // namespace

void fitFades(Clip& c) {
  c.fadeIn.length = std::clamp(c.fadeIn.length, Frames{0}, c.length);
  c.fadeOut.length = std::clamp(c.fadeOut.length, Frames{0}, c.length - c.fadeIn.length);
}

Clip partOf(const Clip& clip, FrameRange range) {
  Clip part = clip;
  part.start = std::max(clip.start, range.start);
  part.length = std::min(clip.end(), range.end) - part.start;
  part.source = clip.source + (part.start - clip.start);
  if (part.start > clip.start) part.fadeIn = {}, part.seam = {};
  if (part.end() < clip.end()) part.fadeOut = {};
  if (clip.piece) {  // nominal ranges still touch: the cut stands for the same take time on both sides
    if (part.start > clip.start)
      part.piece->covers.start = std::clamp(part.source, clip.piece->covers.start, clip.piece->covers.end);
    if (part.end() < clip.end())
      part.piece->covers.end = std::clamp(part.source + part.length, clip.piece->covers.start, clip.piece->covers.end);
  }
  fitFades(part);
  return part;
}

void giveOwnNames(Song& song, ClipList& clips) {
  std::set<ClipId> used;
  for (auto& c : clips)
    if (!used.insert(c.id).second) used.insert(c.id = song.newId<ClipTag>());
}

void clearRange(Song& song, ClipList& clips, FrameRange range) {
  if (range.empty()) return;
  ClipList kept;
  kept.reserve(clips.size() + 1);
  for (const auto& c : clips) {
    if (!c.range().overlaps(range)) {
      kept.push_back(c);
      continue;
    }
    if (c.start < range.start) kept.push_back(partOf(c, {c.start, range.start}));
    if (c.end() > range.end) {
      auto rest = partOf(c, {range.end, c.end()});
      if (c.start < range.start) rest.id = song.newId<ClipTag>();
      kept.push_back(rest);
    }
  }
  clips = std::move(kept);
}

void placeClip(Song& song, ClipList& clips, const Clip& clip) {
  clearRange(song, clips, clip.range());
  clips.insert(std::upper_bound(clips.begin(), clips.end(), clip,
                                [](const Clip& a, const Clip& b) { return a.start < b.start; }),
               clip);
}

Result<Song> moveClips(const Song& song, SetId id, const std::vector<ClipId>& ids, Frames by) {
  return withSet(song, id, [&](Song& next, MicSet& set) -> Result<void> {
    ClipList rest;
    ClipList moved;
    for (const auto& c : *set.clips) (listed(ids, c.id) ? moved : rest).push_back(c);
    if (moved.size() != ids.size()) return clipGone();
    for (const auto& c : moved)
      if (!c.pins->empty()) return stretchedRefusal();
    for (auto& c : moved) {
      takeOutOfPlan(set, c);
      c.start += by;
    }
    // Seams between clips that move together stay; those towards clips that stay are gone.
    for (std::size_t i = 0; i < moved.size(); ++i)
      if (i == 0 || moved[i - 1].end() != moved[i].start) moved[i].seam = {};
    for (const auto& c : moved) placeClip(next, rest, c);
    set.clips = std::move(rest);
    return {};
  });
}

Result<Song> trimClipStart(const Song& song, SetId id, ClipId clipId, Frames to) {
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    ClipList clips = *set.clips;
    auto c = findClip(clips, clipId);
    if (c == clips.end()) return clipGone();
    if (!c->pins->empty()) return stretchedRefusal();
    takeOutOfPlan(set, *c);
    auto first = c->start - c->source;  // where the take begins
    if (c != clips.begin()) first = std::max(first, (c - 1)->end());
    to = std::clamp(to, std::min(first, c->start), c->end() - Frames{1});
    const auto by = to - c->start;
    c->start += by, c->source += by, c->length -= by;
    if (by.value != 0) c->seam = {};
    fitFades(*c);
    set.clips = std::move(clips);
    return {};
  });
}

Result<Song> trimClipEnd(const Song& song, SetId id, ClipId clipId, Frames to) {
  return withSet(song, id, [&](Song& next, MicSet& set) -> Result<void> {
    ClipList clips = *set.clips;
    auto c = findClip(clips, clipId);
    if (c == clips.end()) return clipGone();
    if (!c->pins->empty()) return stretchedRefusal();
    takeOutOfPlan(set, *c);
    auto last = c->shift() + next.find(c->take)->length;
    if (c + 1 != clips.end()) last = std::min(last, (c + 1)->start);
    to = std::clamp(to, c->start + Frames{1}, std::max(last, c->end()));
    c->length = to - c->start;
    fitFades(*c);
    set.clips = std::move(clips);
    return {};
  });
}

Result<Song> splitAt(const Song& song, SetId id, Frames at, Frames crossfade) {
  return withSet(song, id, [&](Song& next, MicSet& set) -> Result<void> {
    ClipList clips = *set.clips;
    auto c = std::find_if(clips.begin(), clips.end(), [&](const Clip& x) { return x.start < at && at < x.end(); });
    if (c == clips.end())
      return fail(ErrorKind::refused,
                  "There is no clip to split here. Put the play position or the pointer inside a clip.");
    if (!c->pins->empty()) return stretchedRefusal();
    auto right = partOf(*c, {at, c->end()});
    right.id = next.newId<ClipTag>();
    *c = partOf(*c, {c->start, at});
    right.seam.before = std::min(crossfade / 2, c->length);
    right.seam.after = std::min(crossfade - crossfade / 2, right.length);
    right.seam.law = CrossfadeLaw::equalGain;  // both sides are the same sound until one of them moves
    clips.insert(c + 1, right);
    set.clips = std::move(clips);
    return {};
  });
}

Result<Song> deleteClips(const Song& song, SetId id, const std::vector<ClipId>& ids) {
  return withSet(song, id, [&](Song&, MicSet& set) -> Result<void> {
    ClipList clips = *set.clips;
    const auto before = clips.size();
    std::erase_if(clips, [&](const Clip& c) { return listed(ids, c.id); });
    if (before - clips.size() != ids.size()) return clipGone();
    for (std::size_t i = 0; i < clips.size(); ++i)
      if (i == 0 || clips[i - 1].end() != clips[i].start) clips[i].seam = {};
    set.clips = std::move(clips);
    return {};
  });
}

ClipList withoutPlan(const ClipList& clips) {
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
    // When a piece between was taken out, two runs have one origin: the second goes by the name of its first piece. So
    // does a run whose origin's name another clip bears.
    const auto other = owner.find(run.id);
    if ((other != owner.end() && other->second != r) || !used.insert(run.id).second) run.id = first.id;
    out.push_back(std::move(run));
  }
  std::stable_sort(out.begin(), out.end(), [](const Clip& a, const Clip& b) { return a.start < b.start; });
  return out;
}

Song withoutPlans(const Song& song) {
  Song plain = song;
  for (auto& s : plain.sets) s.clips = withoutPlan(*s.clips);
  return plain;
}

}  // namespace ochron

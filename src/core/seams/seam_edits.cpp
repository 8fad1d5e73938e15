#include "seams/seam_edits.h"

#include <algorithm>
#include <cmath>

#include "edits/edit_tools.h"
#include "edits/plan_edits.h"
#include "seams/apply_plan.h"

namespace ochron {
namespace {

constexpr double kClearOfAttackMs = 4.5;

std::ptrdiff_t indexOf(const ClipList& clips, ClipId id) {
  const auto at = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
  return at == clips.end() ? -1 : at - clips.begin();
}

SeamOverride merged(SeamOverride old, const SeamOverride& change) {
  const auto take = [](auto& to, const auto& from) {
    if (from) to = from;
  };
  if (change.leadIn) old.leadIn = std::max(Frames{0}, *change.leadIn);
  if (change.length) old.length = std::max(Frames{0}, *change.length);
  take(old.law, change.law);
  take(old.shape, change.shape);
  take(old.bias, change.bias);
  take(old.fill, change.fill);
  return old;
}

FrameRange handRoom(const Song& song, const Clip& a, const Clip& b) {
  const auto latest = std::min(b.end() - Frames{1}, a.end() + a.handleAfter(song.takeLength(a)));
  const auto earliest = std::max(a.start + Frames{1}, b.start - b.handleBefore(song.takeLength(b)));
  return {std::min(earliest, b.start), std::max(latest, b.start)};
}

/// Rolls the joint of two clips cut by hand and dresses its crossfade.
Result<void> changeByHand(const Song& song, ClipList& clips, std::size_t index, const SeamOverride& change) {
  auto& a = clips[index - 1];
  auto& b = clips[index];
  if (change.leadIn && change.leadIn->value != 0) {
    const auto room = handRoom(song, a, b);
    const auto at = std::clamp(b.start - *change.leadIn, room.start, room.end);
    const auto by = at - b.start;
    moveEnd(a, by);
    moveStart(b, by);
    fitFades(a);
    fitFades(b);
  }
  if (change.length) {
    b.seam.before = std::min(*change.length / 2, a.length);
    b.seam.after = std::min(*change.length - *change.length / 2, b.length);
  }
  if (change.law) b.seam.law = *change.law;
  if (change.shape) b.seam.shape = *change.shape;
  if (change.bias) b.seam.bias = *change.bias / 100;
  fitSeam(song, a, b);
  return {};
}

}  // namespace

bool isSeam(const ClipList& clips, std::size_t i) {
  if (i == 0 || i >= clips.size()) return false;
  const auto& a = clips[i - 1];
  const auto& b = clips[i];
  if (b.seam.fill == SeamFill::faded && b.piece && b.piece->hit) return true;
  return a.end() == b.start && (b.seam.before + b.seam.after).value > 0;
}

Result<Song> changeSeams(const Song& song, SetId id, const std::vector<ClipId>& ids, const SeamOverride& change) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  TimingPlan plan = *set->plan;
  ClipList clips = *set->clips;
  bool planned = false;
  bool byHand = false;
  for (const auto clip : ids) {
    const auto i = indexOf(clips, clip);
    if (i < 0 || !isSeam(clips, static_cast<std::size_t>(i)))
      return fail(ErrorKind::refused, "There is no seam here any more.");
    const auto& piece = clips[static_cast<std::size_t>(i)].piece;
    if (piece && piece->hit) {
      auto& seam = plan.overrides[piece->hit].seam;
      seam = merged(seam, change);
      planned = true;
    } else {
      if (auto ok = changeByHand(song, clips, static_cast<std::size_t>(i), change); !ok)
        return tl::unexpected(ok.error());
      byHand = true;
    }
  }
  Result<Song> next = song;
  if (byHand)
    next = withSet(song, id, [&](Song&, MicSet& s) -> Result<void> { return s.clips = clips, Result<void>{}; });
  if (next && planned) next = setTimingPlan(*next, id, plan);
  return next;
}

Result<Song> releaseSeams(const Song& song, SetId id, const std::vector<ClipId>& ids) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  TimingPlan plan = *set->plan;
  for (const auto& c : *set->clips) {
    if (!c.piece || !c.piece->hit || std::find(ids.begin(), ids.end(), c.id) == ids.end()) continue;
    const auto found = plan.overrides.find(c.piece->hit);
    if (found == plan.overrides.end()) continue;
    found->second.seam = {};
    if (found->second == HitOverride{}) plan.overrides.erase(found);
  }
  return setTimingPlan(song, id, plan);
}

FrameRange seamRoom(const Song& song, SetId id, ClipId clip) {
  const auto* set = song.find(id);
  if (!set) return {};
  const auto& clips = *set->clips;
  const auto i = indexOf(clips, clip);
  if (i <= 0) return {};
  const auto& a = clips[static_cast<std::size_t>(i - 1)];
  const auto& b = clips[static_cast<std::size_t>(i)];
  if (!b.piece || !b.piece->hit) return handRoom(song, a, b);
  const auto clear = framesFromMs(kClearOfAttackMs, song.rate);
  const auto& hits = *song.hitsOf(b.take, id);
  const auto own = std::find_if(hits.begin(), hits.end(), [&](const Hit& h) { return h.id == b.piece->hit; });
  if (own == hits.end()) return {b.start, b.start};
  // The last attack that the earlier piece holds, and this piece's own.
  auto earliest = a.start;
  for (const auto& h : hits)
    if (h.origin != HitOrigin::removed && h.at >= a.played().start && h.at < own->at)
      earliest = std::max({earliest, a.toSong(reachOf(h).last) + clear, b.toSong(reachOf(h).last) + clear});
  const auto latest = std::min(a.toSong(reachOf(*own).first), b.toSong(reachOf(*own).first));
  return {std::min(earliest, b.start), std::max(latest, b.start)};
}

}  // namespace ochron

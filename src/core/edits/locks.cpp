#include "edits/locks.h"

#include <algorithm>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

std::vector<FrameRange> united(std::vector<FrameRange> ranges) {
  std::sort(ranges.begin(), ranges.end(), [](auto& a, auto& b) { return a.start < b.start; });
  std::vector<FrameRange> out;
  for (const auto& r : ranges) {
    if (r.empty()) continue;
    if (!out.empty() && r.start <= out.back().end)
      out.back().end = std::max(out.back().end, r.end);
    else
      out.push_back(r);
  }
  return out;
}

/// The range grown or shrunk to whole pieces of the plan: a piece is in unless only a short end of it is.
FrameRange toWholePieces(const MicSet& set, FrameRange range, int rate) {
  const auto little = littleOfPiece(rate);
  FrameRange out = range;
  for (const auto& c : *set.clips) {
    if (!c.piece) continue;
    if (c.range().contains(range.start)) out.start = c.end() - range.start < little ? c.end() : c.start;
    if (c.range().contains(range.end - Frames{1})) out.end = range.end - c.start < little ? c.start : c.end();
  }
  return out.empty() ? range : out;
}

template <class F>
Result<Song> withLocks(const Song& song, SetId id, F&& change) {
  Song next = song;
  for (auto& s : next.sets)
    if (s.id == id) {
      change(s);
      return next;
    }
  return setGone();
}

}  // namespace

ClipList partsIn(const ClipList& clips, FrameRange range) {
  ClipList out;
  for (auto c = std::upper_bound(clips.begin(), clips.end(), range.start,
                                 [](Frames f, const Clip&x) { return f < x.end(); });
       c != clips.end() && c->start < range.end; ++c)
    out.push_back(partOf(*c, range));
  return out;
}

Song onlyIn(const Song& song, FrameRange range) {
  auto out = song;
  for (auto& set : out.sets) set.clips = partsIn(*set.clips, range);
  return out;
}

std::vector<FrameRange> lockedIn(const MicSet& set) {
  if (set.locked) return {{Frames{INT64_MIN / 4}, Frames{INT64_MAX / 4}}};
  return set.locks;
}

Result<Song> lockSet(const Song& song, SetId id, bool locked) {
  return withLocks(song, id, [&](MicSet& s) { s.locked = locked; });
}

Result<Song> lockRange(const Song& song, SetId id, FrameRange range) {
  if (range.empty()) return fail(ErrorKind::refused, "There is no range to lock. Drag over the ruler to choose one.");
  return withLocks(song, id, [&](MicSet& s) {
    s.locks.push_back(toWholePieces(s, range, song.rate));
    s.locks = united(std::move(s.locks));
  });
}

Result<Song> unlockRange(const Song& song, SetId id, FrameRange chosen) {
  return withLocks(song, id, [&](MicSet& s) {
    const auto range = toWholePieces(s, chosen, song.rate);
    std::vector<FrameRange> left;
    for (const auto& l : s.locks) {
      left.push_back({l.start, std::min(l.end, range.start)});
      left.push_back({std::max(l.start, range.end), l.end});
      if (!l.overlaps(range)) {
        left.resize(left.size() - 2);
        left.push_back(l);
      }
    }
    s.locks = united(std::move(left));
  });
}

}  // namespace ochron

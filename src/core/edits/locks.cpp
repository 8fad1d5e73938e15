#include "edits/locks.h"

#include <algorithm>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

constexpr double kLittleOfPieceSeconds = 0.06;

std::string barsOf(const TempoMap& map, FrameRange range) {
  const int first = map.barAt(map.toTicks(range.start)) + 1;
  const int last = map.barAt(map.toTicks(range.end - Frames{1})) + 1;
  return first == last ? "Bar " + std::to_string(first) + " of \""
                       : "Bars " + std::to_string(first) + " to " + std::to_string(last) + " of \"";
}

Error lockedError(const std::string& what) {
  return {ErrorKind::refused, what + " is locked. Unlock it first to change it.", {}};
}

/// How the first piece joins what lies before the range is not compared: that belongs to both.
bool sameIn(const ClipList& a, const ClipList& b, FrameRange range) {
  auto x = partsIn(a, range);
  auto y = partsIn(b, range);
  if (x.size() != y.size()) return false;
  for (auto* parts : {&x, &y})
    if (!parts->empty()) {
      parts->front().seam = {};
      parts->front().fadeIn = {};
      parts->back().fadeOut = {};
    }
  for (std::size_t i = 0; i < x.size(); ++i) {
    // Names and what a piece stands for may change with its neighbours; what is heard may not.
    x[i].id = y[i].id = {};
    x[i].piece.reset();
    y[i].piece.reset();
    if (x[i] != y[i]) return false;
  }
  return true;
}

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
  const Frames little{static_cast<std::int64_t>(kLittleOfPieceSeconds * rate)};
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

std::optional<Error> lockedAgainst(const Song& song, const MicSet& before, const MicSet& after) {
  if (before == after) return {};
  if (before.locked) return lockedError("\"" + before.name + "\"");
  if (before.clips.sameObject(after.clips)) return {};
  for (const auto& lock : before.locks)
    if (!sameIn(*before.clips, *after.clips, lock)) return lockedError(barsOf(song.tempo, lock) + before.name + "\"");
  return {};
}

std::optional<Error> anythingLocked(const MicSet& set) {
  if (!set.locked && set.locks.empty()) return {};
  return lockedError((set.locked ? "\"" : "A range of \"") + set.name + "\"");
}

std::optional<Error> lockedHit(const Song& song, const MicSet& set, TakeId take, Frames at) {
  if (set.locked) return lockedError("\"" + set.name + "\"");
  for (const auto& c : *set.clips) {
    if (c.reversed) continue;
    const bool here = c.piece ? c.piece->covers.contains(c.piece->map.stretched(at)) : c.played().contains(at);
    if (c.take != take || !here) continue;
    for (const auto& lock : set.locks)
      if (lock.contains(c.toSong(at))) return lockedError(barsOf(song.tempo, lock) + set.name + "\"");
  }
  return {};
}

std::optional<Error> lockedTracks(const Song& song, const std::vector<TrackId>& tracks, FrameRange range) {
  for (const auto& s : song.sets) {
    if (std::none_of(s.tracks.begin(), s.tracks.end(),
                     [&](TrackId t) { return std::find(tracks.begin(), tracks.end(), t) != tracks.end(); }))
      continue;
    if (s.locked) return lockedError("\"" + s.name + "\"");
    for (const auto& lock : s.locks)
      if (lock.overlaps(range)) return lockedError(barsOf(song.tempo, lock) + s.name + "\"");
  }
  return {};
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

Result<Song> unlockRange(const Song& song, SetId id, FrameRange range) {
  return withLocks(song, id, [&](MicSet& s) {
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

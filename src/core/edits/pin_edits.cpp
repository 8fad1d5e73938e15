#include "edits/pin_edits.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "edits/edit_tools.h"
#include "edits/note_places.h"
#include "edits/pieces.h"
#include "edits/stretch_edits.h"

namespace ochron {
namespace {

/// A place that is pinned, or that could be.
struct Place {
  Pin pin;
  bool pinned = false;
  bool moves = false;
};

/// The pins there are, the strokes of the hits, where notes begin and end, and the clip's ends, with the chosen places
/// among them; in order and with room between them.
class Places {
 public:
  Places(const Song& song, const MicSet& set, const Clip& clip, const std::vector<Frames>& chosen, Frames apart)
      : map_(clip.map), apart_(apart) {
    const auto played = clip.played();
    std::set<Frames> moving(chosen.begin(), chosen.end());
    const auto hits = activeHits(*song.hitsIn(set, clip), set.hits, song.rate);
    for (const auto& h : hits) {
      const auto reach = reachOf(h);
      if (!moving.contains(reach.first) && !moving.contains(h.at) && !moving.contains(reach.last)) continue;
      if (reach.first >= played.start + apart) moving.insert(reach.first);
      if (reach.last + apart <= played.end) moving.insert(reach.last);
    }
    for (const auto at : moving) put({at, map_.stretched(at)}, false, true);
    for (const auto& p : clip.map.pins()) put(p, true, false);
    put({played.start, clip.source}, false, false);
    put({played.end, clip.source + clip.length}, false, false);
    for (const auto& h : hits)
      for (const auto at : {reachOf(h).first, reachOf(h).last})
        if (played.contains(at)) put({at, map_.stretched(at)}, false, false);
    for (const auto at : NotePlaces(song, set, clip.take).all())
      if (played.contains(at)) put({at, map_.stretched(at)}, false, false);
    std::sort(list_.begin(), list_.end(), [](const Place& a, const Place& b) { return a.pin.take < b.pin.take; });
  }

  std::vector<Place>& list() { return list_; }

  /// Pins the places next to those that move.
  void pinNeighbours() {
    for (std::size_t i = 0; i < list_.size(); ++i) {
      const bool beside = (i > 0 && list_[i - 1].moves) || (i + 1 < list_.size() && list_[i + 1].moves);
      if (list_[i].moves || beside) list_[i].pinned = true;
    }
  }
  /// `by`, as far as the places that hold leave room.
  Frames within(Frames by, bool freeAfter) const {
    for (std::size_t i = 0; i < list_.size(); ++i) {
      if (!list_[i].moves) continue;
      if (i > 0 && !list_[i - 1].moves) by = std::max(by, list_[i - 1].pin.stretched + apart_ - list_[i].pin.stretched);
      if (!freeAfter && i + 1 < list_.size() && !list_[i + 1].moves)
        by = std::min(by, list_[i + 1].pin.stretched - apart_ - list_[i].pin.stretched);
    }
    return by;
  }
  TakeMap map() const {
    std::vector<Pin> pins;
    for (const auto& p : list_)
      if (p.pinned) pins.push_back(p.pin);
    return TakeMap(std::move(pins));
  }

 private:
  /// A place too close to one that is there already is that place.
  void put(Pin pin, bool pinned, bool moves) {
    for (auto& p : list_) {
      const auto away = p.pin.take < pin.take ? pin.take - p.pin.take : p.pin.take - pin.take;
      if (p.pin.take == pin.take) {
        p.pinned = p.pinned || pinned;
        p.moves = p.moves || moves;
        return;
      }
      if (away < apart_ && !moves && !pinned) return;
    }
    list_.push_back({pin, pinned, moves});
  }

  TakeMap map_;
  Frames apart_;
  std::vector<Place> list_;
};

Frames scaled(Frames x, double by) { return Frames{std::llround(static_cast<double>(x.value) * by)}; }

/// All places between two that are given, as far along as they were.
void spread(std::vector<Place>& list, std::size_t from, std::size_t to, Frames wasFrom, Frames wasTo) {
  const auto a = list[from].pin.stretched;
  const double by =
      static_cast<double>((list[to].pin.stretched - a).value) / static_cast<double>((wasTo - wasFrom).value);
  for (auto i = from + 1; i < to; ++i) list[i].pin.stretched = a + scaled(list[i].pin.stretched - wasFrom, by);
}

void giveWay(std::vector<Place>& list, Frames by) {
  for (auto& p : list) p.pinned = true;
  std::size_t from = 0;
  auto wasFrom = list.front().pin.stretched;
  for (std::size_t i = 1; i < list.size(); ++i) {
    if (!list[i].moves && i + 1 < list.size()) continue;
    const auto was = list[i].pin.stretched;
    if (list[i].moves) list[i].pin.stretched += by;
    spread(list, from, i, wasFrom, was);
    from = i;
    wasFrom = was;
  }
}

/// A map that stretches nothing is no map; the window goes along.
void simplify(Clip& clip) {
  const auto& pins = clip.map.pins();
  if (pins.empty()) return;
  const auto shift = pins.front().stretched - pins.front().take;
  for (const auto& p : pins)
    if (p.stretched - p.take != shift) return;
  clip.map = {};
  clip.source -= shift;
}

/// Pins of `clip`, moved by `by` of its stretched time.
Result<void> move(const Song& song, const MicSet& set, Clip& clip, const std::vector<Frames>& takes, Frames by,
                  PinReach reach) {
  const Frames apart{static_cast<std::int64_t>(kLeastApartSeconds * song.rate)};
  const auto played = clip.played();
  for (const auto at : takes) {
    if (!played.contains(at))
      return fail(ErrorKind::badInput, "There is nothing of this clip to pin there. Choose a place inside it.");
    if (at < played.start + apart || at + apart > played.end)
      return fail(ErrorKind::refused,
                  "The clip begins or ends there: nothing is left beside it to stretch. Move the "
                  "clip itself.");
  }
  Places places(song, set, clip, takes, apart);
  auto& list = places.list();
  if (reach == PinReach::neighbours) {
    by = places.within(by, false);
    places.pinNeighbours();
    for (auto& p : list)
      if (p.moves) p.pin.stretched += by;
  } else if (reach == PinReach::following) {
    by = places.within(by, true);
    places.pinNeighbours();
    const auto first = std::find_if(list.begin(), list.end(), [](const Place& p) { return p.moves; });
    for (auto p = first; p != list.end(); ++p) p->pin.stretched += by;
    clip.length += by;
  } else {
    by = places.within(by, false);
    giveWay(list, by);
  }
  clip.map = places.map();
  if (!clip.map.valid() || clip.length < apart)
    return fail(ErrorKind::refused, "The sound beside it would be shorter than can be heard. Move it less far.");
  return {};
}

bool isPlans(const Clip& clip) { return clip.piece.has_value(); }

/// Changes the clip that a plan's piece was cut from; the plan is carried out on it again.
Result<Song> changeUnder(const Song& song, const Clip& piece,
                         const std::function<Result<void>(const MicSet&, Clip&)>& change) {
  return withSet(song, song.setOf(piece.id)->id, [&](Song&, MicSet& set) -> Result<void> {
    const auto bases = withoutPlan(*set.clips);
    auto base = std::find_if(bases.begin(), bases.end(), [&](const Clip& c) { return c.id == piece.piece->origin; });
    if (base == bases.end()) return clipGone();
    Clip changed = *base;
    if (auto ok = change(set, changed); !ok) return ok;
    ClipList clips = *set.clips;
    for (auto& c : clips)
      if (c.piece && c.piece->origin == piece.piece->origin) c.piece->map = changed.map;
    set.clips = std::move(clips);
    return {};
  });
}

Result<Song> changeClip(const Song& song, ClipId id, const std::function<Result<void>(const MicSet&, Clip&)>& change) {
  return withClips(song, {id}, [&](Song& next, MicSet& set, ClipList& clips, const ChosenClips&) -> Result<void> {
    const auto found = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
    Clip clip = *found;
    if (auto ok = change(set, clip); !ok) return ok;
    simplify(clip);
    fitFades(clip);
    clips.erase(found);
    placeClip(next, clips, clip);
    tidySeams(next, clips);
    return {};
  });
}

/// Places of the stretched take under a plan that lie where the piece has others now.
Frames underPlan(const Clip& piece, Frames song) {
  return piece.piece->map.stretched(piece.map.take(piece.unplaced(song)));
}

void unpin(Clip& clip, const std::vector<Frames>& takes) {
  const std::set<Frames> gone(takes.begin(), takes.end());
  std::vector<Pin> left;
  for (const auto& p : clip.map.pins())
    if (!gone.contains(p.take)) left.push_back(p);
  // What lies outside the pins runs on at the recording's speed: so that it stays, the clip's ends hold instead.
  const auto played = clip.played();
  const Pin start{played.start, clip.source};
  const Pin end{played.end, clip.source + clip.length};
  const auto& pins = clip.map.pins();
  if (!pins.empty() && gone.contains(pins.front().take)) {
    std::erase_if(left, [&](const Pin& p) { return p.take <= start.take || p.stretched <= start.stretched; });
    left.insert(left.begin(), start);
  }
  if (!pins.empty() && gone.contains(pins.back().take)) {
    std::erase_if(left, [&](const Pin& p) { return p.take >= end.take || p.stretched >= end.stretched; });
    left.push_back(end);
  }
  if (left.size() == 1) left.front().take < end.take ? left.push_back(end) : void(left.insert(left.begin(), start));
  clip.map = TakeMap(std::move(left));
}

}  // namespace

Result<Song> movePins(const Song& song, ClipId id, const std::vector<Frames>& takes, Frames by, PinReach reach) {
  const auto* clip = song.find(id);
  if (!clip) return clipGone();
  if (takes.empty()) return song;
  if (!isPlans(*clip)) {
    if (clip->reversed && reach == PinReach::following)
      return fail(ErrorKind::refused, "In a clip that plays backwards what follows cannot come along. Move it alone.");
    return changeClip(song, id, [&](const MicSet& set, Clip& c) {
      return move(song, set, c, takes, clip->reversed ? -by : by, reach);
    });
  }
  if (reach != PinReach::neighbours)
    return fail(
        ErrorKind::refused,
        "The timing plan places what follows here. Move the pin alone, or take the clip out of the plan first.");
  const auto to = underPlan(*clip, clip->toSong(takes.front()) + by);
  const auto moved = to - clip->piece->map.stretched(takes.front());
  return changeUnder(song, *clip, [&](const MicSet& set, Clip& c) { return move(song, set, c, takes, moved, reach); });
}

Result<Song> addPins(const Song& song, ClipId id, const std::vector<Frames>& takes) {
  const auto* clip = song.find(id);
  if (!clip) return clipGone();
  const auto add = [&](const MicSet& set, Clip& c) {
    return move(song, set, c, takes, Frames{}, PinReach::neighbours);
  };
  if (isPlans(*clip)) return changeUnder(song, *clip, add);
  // Kept though nothing is stretched yet: it is what the hand put there.
  return withClips(song, {id}, [&](Song&, MicSet& set, ClipList& clips, const ChosenClips&) -> Result<void> {
    return add(set, *std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; }));
  });
}

Result<Song> removePins(const Song& song, ClipId id, const std::vector<Frames>& takes) {
  const auto* clip = song.find(id);
  if (!clip) return clipGone();
  const auto remove = [&](const MicSet&, Clip& c) -> Result<void> {
    unpin(c, takes);
    // Under a plan the window stays: its pieces count on it.
    if (Clip plain = c; simplify(plain), plain.source == c.source) c = std::move(plain);
    return {};
  };
  return isPlans(*clip) ? changeUnder(song, *clip, remove) : changeClip(song, id, remove);
}

std::vector<Frames> handPins(const Clip& clip) {
  std::vector<Frames> out;
  const auto played = clip.played();
  const auto& pins = (clip.piece ? clip.piece->map : clip.map).pins();
  for (auto p =
           std::upper_bound(pins.begin(), pins.end(), played.start, [](Frames f, const Pin&x) { return f < x.take; });
       p != pins.end() && p->take < played.end; ++p)
    out.push_back(p->take);
  return out;
}

StretchBeside stretchBeside(const Clip& clip, Frames take) {
  const auto at = clip.map.stretched(take);
  StretchBeside out;
  const auto before = clip.map.pieces({at - Frames{1}, at});
  const auto after = clip.map.pieces({at, at + Frames{1}});
  out.before = 1 / before.front().speed;
  out.after = 1 / after.front().speed;
  return out;
}

}  // namespace ochron

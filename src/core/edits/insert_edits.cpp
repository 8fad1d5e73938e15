#include "edits/insert_edits.h"

#include <algorithm>
#include <utility>

#include "edits/track_edits.h"

namespace ochron {
namespace {

tl::unexpected<Error> gone() { return fail(ErrorKind::notFound, "This effect is not in the song any more."); }

/// The song with other effects in a place.
Result<Song> withInserts(const Song& song, const InsertPlace& place, InsertList inserts) {
  Song out = song;
  if (place.track) {
    for (auto& t : out.tracks)
      if (t.id == place.track) return t.inserts = std::move(inserts), out;
  } else if (place.set) {
    for (auto& s : out.sets)
      if (s.id == place.set) return s.inserts = std::move(inserts), out;
  } else {
    out.inserts = std::move(inserts);
    return out;
  }
  return fail(ErrorKind::notFound, "The place for this effect is not in the song any more.");
}

/// The song with the list that an insert is in changed by `change`.
template <class F>
Result<Song> changed(const Song& song, InsertId insert, F&& change) {
  const auto place = placeOf(song, insert);
  if (!place) return gone();
  auto list = insertsIn(song, *place);
  const auto at = std::find_if(list.begin(), list.end(), [&](const Insert& i) { return i.id == insert; });
  if (Result<void> ok = change(list, at); !ok) return tl::unexpected(ok.error());
  return withInserts(song, *place, std::move(list));
}

}  // namespace

Result<Song> addInsert(const Song& song, const InsertPlace& place, Insert insert) {
  auto list = insertsIn(song, place);
  if (list.size() >= kMostInserts)
    return fail(ErrorKind::refused,
                "There are " + std::to_string(kMostInserts) + " effects here already. Remove one first.");
  Song next = song;
  insert.id = next.newId<InsertTag>();
  list.push_back(std::move(insert));
  return withInserts(next, place, std::move(list));
}

Result<Song> removeInsert(const Song& song, InsertId insert) {
  return changed(song, insert, [](InsertList& list, auto at) -> Result<void> {
    list.erase(at);
    return {};
  });
}

Result<Song> moveInsert(const Song& song, InsertId insert, int by) {
  return changed(song, insert, [&](InsertList& list, auto at) -> Result<void> {
    const auto to = at - list.begin() + by;
    if (to < 0 || to >= std::ssize(list))
      return fail(ErrorKind::refused,
                  by < 0 ? "This effect is the first already." : "This effect is the last already.");
    auto moved = std::move(*at);
    list.erase(at);
    list.insert(list.begin() + to, std::move(moved));
    return {};
  });
}

Result<Song> setInsertOn(const Song& song, InsertId insert, bool on) {
  return changed(song, insert, [&](InsertList&, auto at) -> Result<void> {
    at->on = on;
    return {};
  });
}

Result<Song> setInsertValues(const Song& song, InsertId insert, const std::map<std::string, double>& values) {
  return changed(song, insert, [&](InsertList&, auto at) -> Result<void> {
    for (const auto& [symbol, value] : values) at->values[symbol] = value;
    return {};
  });
}

Result<Song> setInsertState(const Song& song, InsertId insert, const std::map<std::string, double>& values,
                            EffectState state) {
  return changed(song, insert, [&](InsertList&, auto at) -> Result<void> {
    for (const auto& [symbol, value] : values) at->values[symbol] = value;
    at->state = std::move(state);
    return {};
  });
}

Result<Song> moveControl(const Song& song, InsertId insert, const std::string& control, MovedControl moved) {
  return changed(song, insert, [&](InsertList&, auto at) -> Result<void> {
    if (moved.points.empty()) return at->moved.erase(control), Result<void>{};
    if (!at->moved.contains(control) && at->moved.size() >= kMostMovedControls)
      return fail(ErrorKind::refused, "So many controls of this effect move already. Hold one still first.");
    at->moved[control] = std::move(moved);
    return {};
  });
}

Result<Song> mixAlike(const Song& song, TrackId from, TrackId to) {
  const auto* model = song.find(from);
  const auto* track = song.find(to);
  if (!model || !track) return fail(ErrorKind::notFound, "This track is not in the song any more.");
  auto changed = *model;
  changed.id = to;
  changed.name = track->name, changed.role = track->role, changed.colour = track->colour, changed.guide = track->guide;
  changed.inserts = InsertList{};
  auto next = setTrack(song, changed);
  for (const auto& insert : insertsOf(song, from))
    if (next) next = addInsert(*next, {to, {}}, insert);
  return next;
}

}  // namespace ochron

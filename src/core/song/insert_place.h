#pragma once

#include <functional>
#include <optional>

#include "song/song.h"

namespace ochron {

/// Where effects are: in a track, in a mic set (all its tracks alike), or, without either, in the mix.
struct InsertPlace {
  TrackId track;
  SetId set;

  bool operator==(const InsertPlace&) const = default;
};

/// The effects in a place; none where there is no such place.
const InsertList& insertsIn(const Song& song, const InsertPlace& place);
/// The place that an insert is in.
std::optional<InsertPlace> placeOf(const Song& song, InsertId insert);
const Insert* findInsert(const Song& song, InsertId insert);
/// All that a track's sound goes through before its gain: its own effects, then those of its set.
InsertList insertsOf(const Song& song, TrackId track);
bool anyInserts(const Song& song);
/// Calls with every list of effects in a song, those kept with prints too.
template <class AnySong, class Call>
void eachInsertList(AnySong& song, Call call) {
  for (auto& t : song.tracks) call(t.inserts);
  for (auto& s : song.sets) call(s.inserts);
  for (auto& p : song.prints) {
    for (auto& m : p.mixer) call(m.inserts);
    call(p.inserts);
  }
  call(song.inserts);
}
/// Changes the points of every control that moves in a list; the list stays the same object where none does.
void changeMoved(Shared<InsertList>& inserts, const std::function<void(Envelope&)>& change);

}  // namespace ochron

#include "song/insert_place.h"

#include <algorithm>

namespace ochron {
namespace {
const InsertList kNoInserts;
}  // namespace

const InsertList& insertsIn(const Song& song, const InsertPlace& place) {
  if (place.track) {
    const auto* t = song.find(place.track);
    return t ? *t->inserts : kNoInserts;
  }
  if (place.set) {
    const auto* s = song.find(place.set);
    return s ? *s->inserts : kNoInserts;
  }
  return *song.inserts;
}

std::optional<InsertPlace> placeOf(const Song& song, InsertId insert) {
  const auto holds = [&](const InsertList& list) {
    return std::any_of(list.begin(), list.end(), [&](const Insert& i) { return i.id == insert; });
  };
  for (const auto& t : song.tracks)
    if (holds(*t.inserts)) return InsertPlace{t.id, {}};
  for (const auto& s : song.sets)
    if (holds(*s.inserts)) return InsertPlace{{}, s.id};
  return holds(*song.inserts) ? std::optional(InsertPlace{}) : std::nullopt;
}

const Insert* findInsert(const Song& song, InsertId insert) {
  const auto place = placeOf(song, insert);
  if (!place) return nullptr;
  for (const auto& i : insertsIn(song, *place))
    if (i.id == insert) return &i;
  return nullptr;
}

InsertList insertsOf(const Song& song, TrackId track) {
  InsertList out = insertsIn(song, {track, {}});
  if (const auto* set = song.setOf(track)) out.insert(out.end(), set->inserts->begin(), set->inserts->end());
  return out;
}

void changeMoved(Shared<InsertList>& inserts, const std::function<void(Envelope&)>& change) {
  if (std::all_of(inserts->begin(), inserts->end(), [](const Insert& i) { return i.moved.empty(); })) return;
  auto list = *inserts;
  for (auto& i : list)
    for (auto& [symbol, m] : i.moved) change(m.points);
  inserts = std::move(list);
}

bool anyInserts(const Song& song) {
  const auto some = [](const auto& x) { return !x.inserts->empty(); };
  return some(song) || std::any_of(song.tracks.begin(), song.tracks.end(), some) ||
         std::any_of(song.sets.begin(), song.sets.end(), some);
}

}  // namespace ochron

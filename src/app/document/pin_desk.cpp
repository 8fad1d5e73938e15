#include "document/pin_desk.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "document/document.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/note_places.h"

namespace ochron {

PinDesk::PinDesk(Document& document) : QObject(&document), doc_(document) {}

bool PinDesk::shown() const {
  return (doc_.step() == Step::timing || doc_.step() == Step::clips) && !doc_.transport().original();
}

std::optional<PinRef> PinDesk::placeAt(SetId id, Frames song, Frames reach) const {
  const auto* set = doc_.song().find(id);
  if (!set) return {};
  for (const auto& c : *set->clips) {
    if (!c.range().contains(song)) continue;
    auto take = c.toTake(song);
    Frames nearest = reach;
    auto places = NotePlaces(doc_.song(), *set, c.take).all();
    for (const auto& h : activeHits(*doc_.song().hitsIn(*set, c), set->hits, doc_.song().rate)) places.push_back(h.at);
    for (const auto place : places) {
      if (!c.played().contains(place)) continue;
      const auto at = c.toSong(place);
      const auto away = at < song ? song - at : at - song;
      if (away > nearest) continue;
      nearest = away;
      take = place;
    }
    return PinRef{id, c.id, take};
  }
  return {};
}

std::optional<PinRef> PinDesk::placeOf(SetId id, TakeId take, Frames at) const {
  const auto* set = doc_.song().find(id);
  if (!set) return {};
  for (const auto& c : *set->clips)
    if (c.take == take && c.played().contains(at)) return PinRef{id, c.id, at};
  return {};
}

bool PinDesk::edit(const QString& name, SetId set, const Result<Song>& next) {
  doc_.selection().chooseSet(set);
  return doc_.edit(name, next);
}

void PinDesk::add(const PinRef& place) {
  if (!edit(tr("Pin a place"), place.set, addPins(doc_.song(), place.clip, {place.take}))) return;
  doc_.selection().choosePins({place});
  doc_.tell(tr("Pinned where it is: drag it, and only the sound up to the places beside it is stretched."));
}

void PinDesk::addAtPlayLine() {
  const auto place = placeAt(doc_.selection().set(), doc_.transport().cursor(), framesFromMs(20, doc_.song().rate));
  if (!place) return doc_.tell(tr("The play line is not over a recording of this set."));
  add(*place);
}

void PinDesk::remove() {
  std::map<std::pair<SetId, ClipId>, std::vector<Frames>> byClip;
  for (const auto& p : chosen()) byClip[{p.set, p.clip}].push_back(p.take);
  Result<Song> next = doc_.song();
  for (const auto& [where, takes] : byClip)
    if (next) next = removePins(*next, where.second, takes);
  if (byClip.empty()) return;
  edit(tr("Remove %1").arg(counted(chosen().size(), "pin", "pins")), byClip.begin()->first.first, next);
}

void PinDesk::removeAll() {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  std::vector<PinRef> all;
  for (const auto& c : *set->clips)
    for (const auto take : handPins(c))
      if (doc_.selection().range().empty() || doc_.selection().range().contains(c.toSong(take)))
        all.push_back({set->id, c.id, take});
  if (all.empty()) return doc_.tell(tr("There are no pins here."));
  doc_.selection().choosePins(all);
  remove();
}

void PinDesk::nudge(Frames by) {
  Result<Song> next = doc_.song();
  if (chosen().empty()) return;
  std::map<ClipId, std::vector<Frames>> byClip;
  for (const auto& p : chosen()) byClip[p.clip].push_back(p.take);
  for (const auto& [clip, takes] : byClip)
    if (next) next = movePins(*next, clip, takes, by, PinReach::neighbours);
  doc_.selection().chooseSet(chosen().front().set);
  if (!doc_.edit(tr("Move %1").arg(counted(chosen().size(), "pin", "pins")), next, "nudge pins")) return;
  if (const auto* clip = doc_.song().find(chosen().front().clip)) doc_.tell(wordsFor(*clip, chosen().front().take));
}

void PinDesk::moveTo(Frames song) {
  const auto now = placeOfChosen();
  if (!now) return;
  const auto place = chosen().front();
  edit(tr("Move a pin"), place.set, movePins(doc_.song(), place.clip, {place.take}, song - *now, PinReach::neighbours));
}

std::optional<Frames> PinDesk::placeOfChosen() const {
  if (chosen().size() != 1) return {};
  const auto* clip = doc_.song().find(chosen().front().clip);
  if (!clip) return {};
  return clip->toSong(chosen().front().take);
}

QString PinDesk::wordsFor(const Clip& clip, Frames take) const {
  const auto beside = stretchBeside(clip, take);
  const auto* set = doc_.song().setOf(clip.id);
  const double limit = set ? set->plan->settings.stretchLimit : kStretchLimitRange.fallback;
  auto text =
      tr("%1 % long before, %2 % after").arg(std::lround(100 * beside.before)).arg(std::lround(100 * beside.after));
  const double most = 100 * std::max(std::abs(beside.before - 1), std::abs(beside.after - 1));
  if (most > limit) text += tr(" \u00b7 beyond the limit of %1 %").arg(limit);
  return text;
}

}  // namespace ochron

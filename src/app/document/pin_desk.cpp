#include "document/pin_desk.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "document/document.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/note_places.h"

namespace ochron {

PinDesk::PinDesk(Document& document) : QObject(&document), doc_(document) {
  for (auto signal : {&Document::songChanged, &Document::songPreviewed})
    connect(&document, signal, this, &PinDesk::prune);
  connect(&document, &Document::selectionChanged, this, [this] {
    const bool another = doc_.currentHit() != hitSeen_;
    hitSeen_ = doc_.currentHit();
    if (another && hitSeen_ && !chosen_.empty()) choose({});
  });
}

bool PinDesk::shown() const {
  return (doc_.step() == Step::timing || doc_.step() == Step::clips) && !doc_.transport().original();
}

std::optional<PinDesk::Place> PinDesk::placeAt(SetId id, Frames song, Frames reach) const {
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
    return Place{id, c.id, take};
  }
  return {};
}

std::optional<PinDesk::Place> PinDesk::placeOf(SetId id, TakeId take, Frames at) const {
  const auto* set = doc_.song().find(id);
  if (!set) return {};
  for (const auto& c : *set->clips)
    if (c.take == take && c.played().contains(at)) return Place{id, c.id, at};
  return {};
}

bool PinDesk::isChosen(const Place& place) const {
  return std::find(chosen_.begin(), chosen_.end(), place) != chosen_.end();
}

void PinDesk::choose(const std::vector<Place>& places, bool add) {
  if (!add) chosen_.clear();
  for (const auto& p : places)
    if (!isChosen(p)) chosen_.push_back(p);
  forgetGone();
  emit changed();
}

void PinDesk::toggle(const Place& place) {
  const auto found = std::find(chosen_.begin(), chosen_.end(), place);
  if (found == chosen_.end())
    chosen_.push_back(place);
  else
    chosen_.erase(found);
  emit changed();
}

void PinDesk::prune() {
  const auto before = chosen_;
  forgetGone();
  if (chosen_ != before) emit changed();
}

/// What was chosen and is no pin any more is forgotten. A plan that is carried out anew may have given the clip around
/// it another name.
void PinDesk::forgetGone() {
  for (auto& p : chosen_) {
    const auto* clip = doc_.song().find(p.clip);
    if (clip && clip->played().contains(p.take)) continue;
    const auto* set = doc_.song().find(p.set);
    if (!set) continue;
    for (const auto& c : *set->clips) {
      const auto pins = handPins(c);
      if (std::find(pins.begin(), pins.end(), p.take) != pins.end()) p.clip = c.id;
    }
  }
  std::erase_if(chosen_, [&](const Place& p) {
    const auto* clip = doc_.song().find(p.clip);
    if (!clip) return true;
    const auto pins = handPins(*clip);
    return std::find(pins.begin(), pins.end(), p.take) == pins.end();
  });
}

bool PinDesk::edit(const QString& name, SetId set, const Result<Song>& next) {
  doc_.setActiveSet(set);
  return doc_.editHits(name, next);
}

void PinDesk::add(const Place& place) {
  if (!edit(tr("Pin a place"), place.set, addPins(doc_.song(), place.clip, {place.take}))) return;
  choose({place});
  doc_.tell(tr("Pinned where it is: drag it, and only the sound up to the places beside it is stretched."));
}

void PinDesk::addAtPlayLine() {
  const auto place = placeAt(doc_.activeSet(), doc_.transport().cursor(), framesFromMs(20, doc_.song().rate));
  if (!place) return doc_.tell(tr("The play line is not over a recording of this set."));
  add(*place);
}

void PinDesk::remove() {
  std::map<std::pair<SetId, ClipId>, std::vector<Frames>> byClip;
  for (const auto& p : chosen_) byClip[{p.set, p.clip}].push_back(p.take);
  Result<Song> next = doc_.song();
  for (const auto& [where, takes] : byClip)
    if (next) next = removePins(*next, where.second, takes);
  if (byClip.empty()) return;
  edit(tr("Remove %1").arg(counted(chosen_.size(), "pin", "pins")), byClip.begin()->first.first, next);
}

void PinDesk::removeAll() {
  const auto* set = doc_.song().find(doc_.activeSet());
  if (!set) return;
  std::vector<Place> all;
  for (const auto& c : *set->clips)
    for (const auto take : handPins(c))
      if (doc_.range().empty() || doc_.range().contains(c.toSong(take))) all.push_back({set->id, c.id, take});
  if (all.empty()) return doc_.tell(tr("There are no pins here."));
  chosen_ = all;
  remove();
}

void PinDesk::nudge(Frames by) {
  Result<Song> next = doc_.song();
  if (chosen_.empty()) return;
  std::map<ClipId, std::vector<Frames>> byClip;
  for (const auto& p : chosen_) byClip[p.clip].push_back(p.take);
  for (const auto& [clip, takes] : byClip)
    if (next) next = movePins(*next, clip, takes, by, PinReach::neighbours);
  doc_.setActiveSet(chosen_.front().set);
  if (!doc_.editHits(tr("Move %1").arg(counted(chosen_.size(), "pin", "pins")), next, "nudge pins")) return;
  if (const auto* clip = doc_.song().find(chosen_.front().clip)) doc_.tell(wordsFor(*clip, chosen_.front().take));
}

void PinDesk::moveTo(Frames song) {
  const auto now = placeOfChosen();
  if (!now) return;
  const auto place = chosen_.front();
  edit(tr("Move a pin"), place.set, movePins(doc_.song(), place.clip, {place.take}, song - *now, PinReach::neighbours));
}

std::optional<Frames> PinDesk::placeOfChosen() const {
  if (chosen_.size() != 1) return {};
  const auto* clip = doc_.song().find(chosen_.front().clip);
  if (!clip) return {};
  return clip->toSong(chosen_.front().take);
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

#include "song/song.h"

#include <algorithm>
#include <set>

namespace ochron {
namespace {

template <class Range, class IdType>
auto* findById(Range& range, IdType id) {
  auto it = std::find_if(range.begin(), range.end(), [&](const auto& x) { return x.id == id; });
  return it == range.end() ? nullptr : &*it;
}

}  // namespace

const Media* Song::find(MediaId id) const { return findById(media, id); }
const Take* Song::find(TakeId id) const { return findById(takes, id); }
const Track* Song::find(TrackId id) const { return findById(tracks, id); }
const MicSet* Song::find(SetId id) const { return findById(sets, id); }

const MicSet* Song::setOf(TrackId id) const {
  for (const auto& s : sets)
    if (std::find(s.tracks.begin(), s.tracks.end(), id) != s.tracks.end()) return &s;
  return nullptr;
}

const TakeMic* Song::micOf(TakeId takeId, TrackId track) const {
  const auto* take = find(takeId);
  if (!take) return nullptr;
  for (const auto& m : take->mics)
    if (m.track == track) return &m;
  return nullptr;
}

const Shared<HitList>& Song::hitsOf(TakeId takeId, SetId set) const {
  static const Shared<HitList> none;
  if (const auto* take = find(takeId))
    for (const auto& h : take->hits)
      if (h.set == set) return h.hits;
  return none;
}

Frames Song::end() const {
  Frames e;
  for (const auto& s : sets)
    if (!s.clips->empty()) e = std::max(e, s.clips->back().end());
  return e;
}

std::vector<std::string> brokenRules(const Song& song) {
  std::vector<std::string> broken;
  std::set<TrackId> grouped;
  std::set<ClipId> clipIds;
  for (const auto& s : song.sets) {
    if (s.tracks.empty()) broken.push_back("I1: mic set " + s.name + " has no track");
    for (auto t : s.tracks) {
      if (!song.find(t)) broken.push_back("I1: mic set " + s.name + " names a track that is not there");
      if (!grouped.insert(t).second) broken.push_back("I1: a track belongs to two mic sets");
    }
    for (std::size_t i = 0; i < s.locks.size(); ++i)
      if (s.locks[i].empty() || (i > 0 && s.locks[i].start <= s.locks[i - 1].end))
        broken.push_back("I7: locked ranges of " + s.name + " are empty, touch or are out of order");
    const Clip* before = nullptr;
    for (const auto& c : *s.clips) {
      if (c.length.value <= 0) broken.push_back("I2: a clip of " + s.name + " has no length");
      if (before && c.start < before->end())
        broken.push_back("I2: clips of " + s.name + " overlap or are out of order");
      const auto* take = song.find(c.take);
      if (!take) {
        broken.push_back("I3: a clip of " + s.name + " plays a take that is not there");
      } else if (c.pins->empty() && (c.source.value < 0 || c.source + c.length > take->length)) {
        broken.push_back("I3: a clip of " + s.name + " reaches beyond its take");
      }
      if (c.fadeIn.length.value < 0 || c.fadeOut.length.value < 0 || c.fadeIn.length + c.fadeOut.length > c.length)
        broken.push_back("I4: fades of a clip of " + s.name + " are longer than the clip");
      if (c.seam.before.value < 0 || c.seam.after.value < 0)
        broken.push_back("I4: a seam of " + s.name + " has a negative length");
      if (!clipIds.insert(c.id).second) broken.push_back("I5: two clips share a name");
      if (c.id.value > song.lastId) broken.push_back("I5: a clip's name was never given out");
      before = &c;
    }
  }
  for (const auto& t : song.tracks)
    if (!grouped.contains(t.id)) broken.push_back("I1: track " + t.name + " belongs to no mic set");
  for (const auto& t : song.takes) {
    for (const auto& m : t.mics)
      if (!song.find(m.media)) broken.push_back("I3: take " + t.name + " names a recording that is not there");
    for (const auto& h : t.hits)
      if (!std::is_sorted(h.hits->begin(), h.hits->end(), [](const Hit& a, const Hit& b) { return a.at < b.at; }))
        broken.push_back("I6: hits of take " + t.name + " are out of order");
  }
  return broken;
}

}  // namespace ochron

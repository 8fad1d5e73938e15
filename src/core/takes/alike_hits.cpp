#include "takes/alike_hits.h"

#include <algorithm>

#include "analysis/levels/added_spectrum.h"

namespace ochron {
namespace {
constexpr double kAlike = 0.85;  // strokes of one drum on its mic lie over 0.9, other drums' under 0.7
}

Result<std::vector<HitId>> hitsAlike(const Song& song, TakeId take, SetId set, HitId id, const MediaPool& pool) {
  const auto all = song.hitsOf(take, set);  // empty when there are none
  const auto given = std::find_if(all->begin(), all->end(), [&](auto& h) { return h.id == id; });
  if (given == all->end()) return fail(ErrorKind::notFound, "This hit is not in the song any more.");
  const auto heard = given->heardBy.empty() ? TrackId{} : given->heardBy.front().track;
  const auto* mic = song.micOf(take, heard);
  const auto media = mic ? pool.find(mic->media) : pool.end();
  if (media == pool.end())
    return fail(ErrorKind::notFound, "The recording that hears this hit is not at hand. Find it first.");
  std::vector<HitId> ids;
  std::vector<std::int64_t> places;
  std::size_t self = 0;
  for (const auto& h : *all) {
    const bool asked = h.drum != given->drum && h.origin == HitOrigin::detected &&
                       std::any_of(h.heardBy.begin(), h.heardBy.end(), [&](auto& g) { return g.track == heard; });
    if (!asked && h.id != id) continue;
    if (h.id == id) self = ids.size();
    ids.push_back(h.id);
    places.push_back((h.at - mic->offset).value);
  }
  std::vector<float> room;
  const auto spectra = addedSpectraDb(media->second->channel(0).in(room), song.rate, places);
  std::vector<HitId> out;
  for (std::size_t i = 0; i < ids.size(); ++i)
    if (i != self && likeness(spectra[i], spectra[self]) >= kAlike) out.push_back(ids[i]);
  return out;
}

}  // namespace ochron

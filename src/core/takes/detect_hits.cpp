#include "takes/detect_hits.h"

#include <algorithm>

#include "analysis/onsets.h"

namespace ochron {
namespace {

MicHears hearsOf(MicRole role) {
  switch (role) {
    case MicRole::kickIn:
    case MicRole::kickOut:
    case MicRole::kick: return MicHears::kick;
    case MicRole::snareTop:
    case MicRole::snareBottom:
    case MicRole::snare: return MicHears::snare;
    case MicRole::tom: return MicHears::tom;
    case MicRole::hat:
    case MicRole::cymbal:
    case MicRole::overhead:
    case MicRole::room: return MicHears::everything;
    case MicRole::none: break;
  }
  return MicHears::unknown;
}

}  // namespace

Result<HitList> detectHits(const Song& song, TakeId take, SetId setId, const MediaPool& pool, Progress& progress) {
  const auto* set = song.find(setId);
  if (!set || !song.find(take)) return fail(ErrorKind::notFound, "This take is not in the song any more.");
  const bool anyGuide =
      std::any_of(set->tracks.begin(), set->tracks.end(), [&](auto t) { return song.find(t)->guide; });
  std::vector<GuideSignal> signals;
  std::vector<TrackId> tracks;
  std::vector<std::vector<float>> mixed;
  std::vector<std::shared_ptr<const DecodedMedia>> held;
  for (auto id : set->tracks) {
    const auto* mic = song.micOf(take, id);
    if (!mic || (anyGuide && !song.find(id)->guide)) continue;
    const auto found = pool.find(mic->media);
    if (found == pool.end()) continue;
    const auto& media = *found->second;
    held.push_back(found->second);
    std::span<const float> samples = media.channel(0);
    if (media.channels() > 1) {
      std::vector<float> mean(samples.begin(), samples.end());
      for (int c = 1; c < media.channels(); ++c)
        for (std::size_t i = 0; i < mean.size(); ++i) mean[i] += media.channel(c)[i];
      for (auto& s : mean) s /= static_cast<float>(media.channels());
      mixed.push_back(std::move(mean));
      samples = mixed.back();
    }
    signals.push_back({samples, mic->offset, hearsOf(song.find(id)->role)});
    tracks.push_back(id);
  }
  if (signals.empty())
    return fail(ErrorKind::notFound,
                "None of the guides of \"" + set->name +
                    "\" has its recording at hand. Relink the missing files or choose other guides.");
  auto onsets = detectOnsets(signals, song.rate, progress);
  if (!onsets) return tl::unexpected(onsets.error());
  HitList hits;
  hits.reserve(onsets->size());
  for (const auto& o : *onsets) {
    Hit h;
    h.at = o.at;
    h.strength = o.strength;
    h.confidence = o.confidence;
    h.drum = o.drum;
    for (const auto& g : o.guides) h.heardBy.push_back({tracks[static_cast<std::size_t>(g.guide)], g.claim});
    if (o.strokes.size() > 1)
      for (const auto& s : o.strokes) h.strokes.push_back({s.at, s.drum, s.strength});
    hits.push_back(std::move(h));
  }
  return hits;
}

}  // namespace ochron

#include "takes/detect_hits.h"

#include <algorithm>
#include <deque>

#include "analysis/drums/onsets.h"
#include "terms/general_midi.h"

namespace ochron {
namespace {

constexpr std::size_t kMostWide = 2;  // mics that are no guides and no drum's own: a pair of overheads says it all

MicHears hearsOf(MicRole role) {
  switch (role) {
    case MicRole::kickIn:
    case MicRole::kickOut:
    case MicRole::kick: return MicHears::kick;
    case MicRole::snareTop:
    case MicRole::snareBottom:
    case MicRole::snare: return MicHears::snare;
    case MicRole::tom: return MicHears::tom;
    case MicRole::hat: return MicHears::hat;
    case MicRole::cymbal:
    case MicRole::overhead: return MicHears::everything;
    case MicRole::room: return MicHears::room;
    case MicRole::none: break;
  }
  return MicHears::unknown;
}

/// The mics of a set in a take as the detection hears them, with what keeps their sound alive.
struct Mics {
  std::vector<GuideSignal> signals;
  std::vector<TrackId> tracks;
  std::deque<std::vector<float>> mixed;
  std::vector<std::shared_ptr<const DecodedMedia>> held;
  std::size_t guides = 0;
};

Samples oneChannel(const DecodedMedia& media, std::deque<std::vector<float>>& mixed) {
  if (media.channels() == 1) return media.channel(0);
  auto& mean = mixed.emplace_back(media.channel(0).copy());
  for (int c = 1; c < media.channels(); ++c) {
    const auto other = media.channel(c);
    for (std::size_t i = 0; i < mean.size(); ++i) mean[i] += other[i];
  }
  for (auto& s : mean) s /= static_cast<float>(media.channels());
  return mean;
}

Mics micsOf(const Song& song, TakeId take, const MicSet& set, const MediaPool& pool) {
  Mics out;
  const bool anyGuide = std::any_of(set.tracks.begin(), set.tracks.end(), [&](auto t) { return song.find(t)->guide; });
  std::size_t wide = 0;
  for (auto id : set.tracks) {
    const auto* mic = song.micOf(take, id);
    if (!mic) continue;
    const bool guide = !anyGuide || song.find(id)->guide;
    const auto hears = hearsOf(song.find(id)->role);
    const bool witness = ownDrum(hears) || (hears == MicHears::everything && wide < kMostWide);
    const auto found = pool.find(mic->media);
    if ((!guide && !witness) || found == pool.end()) continue;
    wide += hears == MicHears::everything ? 1 : 0;
    out.guides += guide ? 1 : 0;
    out.held.push_back(found->second);
    out.signals.push_back({oneChannel(*found->second, out.mixed), mic->offset, hears, guide});
    out.tracks.push_back(id);
  }
  return out;
}

constexpr double kChordSeconds = 0.03;  // within it notes are one hit

/// What was played by keys is known: a hit where a note or a chord begins.
HitList hitsOfNotes(const Mics& mics, int rate) {
  struct Struck {
    Frames at;
    double strength;
    DrumClass drum;
    TrackId track;
  };
  std::vector<Struck> all;
  for (std::size_t i = 0; i < mics.held.size(); ++i)
    if (mics.signals[i].guide)
      for (const auto& n : mics.held[i]->notes()) {
        const double loud = n.velocity / 127.0;
        all.push_back(
            {n.at + mics.signals[i].offset, loud * loud, n.drum ? drumOfKey(n.key) : DrumClass::other, mics.tracks[i]});
      }
  std::stable_sort(all.begin(), all.end(), [](const Struck& a, const Struck& b) { return a.at < b.at; });
  const Frames together{static_cast<std::int64_t>(kChordSeconds * rate)};
  HitList out;
  for (const auto& s : all) {
    if (out.empty() || s.at - out.back().at >= together) {
      Hit h;
      h.at = s.at;
      h.confidence = 1;
      h.drum = s.drum;
      out.push_back(std::move(h));
    }
    auto& hit = out.back();
    hit.strength = std::max(hit.strength, s.strength);
    const auto same = [&](const auto& heard) { return heard.track == s.track; };
    if (std::none_of(hit.heardBy.begin(), hit.heardBy.end(), same)) hit.heardBy.push_back({s.track, 1});
    if (s.drum != DrumClass::other) hit.strokes.push_back({s.at, s.drum, s.strength});
  }
  for (auto& h : out)
    if (h.strokes.size() < 2) h.strokes.clear();
  return out;
}

}  // namespace

Result<HitList> detectHits(const Song& song, TakeId take, SetId setId, const MediaPool& pool, Progress& progress) {
  const auto* set = song.find(setId);
  if (!set || !song.find(take)) return fail(ErrorKind::notFound, "This take is not in the song any more.");
  const auto mics = micsOf(song, take, *set, pool);
  if (mics.guides == 0)
    return fail(ErrorKind::notFound,
                "None of the guides of \"" + set->name +
                    "\" has its recording at hand. Relink the missing files or choose other guides.");
  bool played = true;
  for (std::size_t i = 0; i < mics.signals.size(); ++i)
    played = played && (!mics.signals[i].guide || !mics.held[i]->notes().empty());
  if (played) {
    progress.report(1);
    return hitsOfNotes(mics, song.rate);
  }
  auto onsets = detectOnsets(mics.signals, song.rate, progress);
  if (!onsets) return tl::unexpected(onsets.error());
  HitList hits;
  hits.reserve(onsets->size());
  for (const auto& o : *onsets) {
    Hit h;
    h.at = o.at;
    h.strength = o.strength;
    h.confidence = o.confidence;
    h.drum = o.drum;
    for (const auto& g : o.guides) h.heardBy.push_back({mics.tracks[static_cast<std::size_t>(g.guide)], g.claim});
    if (o.strokes.size() > 1)
      for (const auto& s : o.strokes) h.strokes.push_back({s.at, s.drum, s.strength});
    hits.push_back(std::move(h));
  }
  return hits;
}

}  // namespace ochron

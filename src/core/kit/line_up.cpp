#include "kit/line_up.h"

#include <algorithm>
#include <cmath>

#include "base/median.h"
#include "kit/drum_strokes.h"
#include "kit/layer_sounds.h"
#include "kit/stroke_level.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {

constexpr double kNearlyAsWell = 0.1;   // of the power by which strokes dominate a mic
constexpr double kPlainStrength = 0.2;  // of strokes that tell how loud a full one is

bool isClose(MicRole role, DrumClass drum) {
  switch (drum) {
    case DrumClass::kick: return role == MicRole::kickIn || role == MicRole::kickOut || role == MicRole::kick;
    case DrumClass::snare: return role == MicRole::snareTop || role == MicRole::snareBottom || role == MicRole::snare;
    case DrumClass::tom: return role == MicRole::tom;
    case DrumClass::hat: return role == MicRole::hat;
    case DrumClass::cymbal: return role == MicRole::cymbal || role == MicRole::overhead;
    case DrumClass::other: break;
  }
  return false;
}

/// The order of mics on one drum, the nearest to where it is struck first.
int nearness(MicRole role) {
  if (role == MicRole::kickOut || role == MicRole::snareBottom) return 2;
  return role == MicRole::kick || role == MicRole::snare ? 1 : 0;
}

/// A mic's recording of one take.
struct Recorded {
  const DecodedMedia* media = nullptr;
  Frames offset;
};

Recorded recordedOn(const Song& song, const MediaPool& pool, TakeId take, TrackId track) {
  const auto* mic = song.micOf(take, track);
  if (!mic) return {};
  const auto found = pool.find(mic->media);
  return found == pool.end() ? Recorded{} : Recorded{found->second.get(), mic->offset};
}

/// Strokes of a take by where they lie in a recording.
std::vector<std::int64_t> placesIn(const Recorded& mic, const std::vector<TakeStroke>& strokes) {
  std::vector<std::int64_t> out;
  for (const auto& s : strokes) out.push_back((s.at - mic.offset).value);
  return out;
}

using Strokes = std::vector<std::pair<TakeId, std::vector<TakeStroke>>>;

Strokes allStrokes(const Song& song, const Layer& layer) {
  Strokes out;
  for (const auto& take : song.takes) {
    auto strokes = takeStrokes(song, layer, take.id, {Frames{}, take.length});
    if (!strokes.empty()) out.emplace_back(take.id, std::move(strokes));
  }
  return out;
}

/// The mic that the strokes dominate most; of mics named for the drum the nearest (inside before outside, top
/// before bottom) that does nearly as well.
TrackId bestMic(const Song& song, const Layer& layer, const MediaPool& pool, const Strokes& strokes) {
  const auto& set = *song.find(layer.set);
  auto tracks = closeMics(song, set, layer.drum);
  const bool named = tracks.size() < set.tracks.size();
  std::stable_sort(tracks.begin(), tracks.end(),
                   [&](TrackId a, TrackId b) { return nearness(song.find(a)->role) < nearness(song.find(b)->role); });
  std::vector<std::pair<TrackId, double>> stands;
  for (const auto track : tracks) {
    std::vector<double> ofTakes;
    for (const auto& [take, list] : strokes)
      if (const auto mic = recordedOn(song, pool, take, track); mic.media)
        ofTakes.push_back(dominates(mic.media->channel(0), placesIn(mic, list), song.rate));
    if (!ofTakes.empty()) stands.emplace_back(track, medianOf(ofTakes));
  }
  double most = 0;
  for (const auto& [track, by] : stands) most = std::max(most, by);
  for (const auto& [track, by] : stands)
    if (by >= (named ? kNearlyAsWell : 1) * most) return track;
  return stands.empty() ? TrackId{} : stands.front().first;
}

std::vector<float> soundOf(const KitSound& s, const DecodedMedia& media) {
  std::vector<float> mono;
  for (int c = 0; c < media.channels(); ++c) {
    const auto side = sideOf(s, media, c).copy();
    mono.resize(side.size());
    for (std::size_t i = 0; i < side.size(); ++i) mono[i] += side[i] / static_cast<float>(media.channels());
  }
  return mono;
}

/// The drum as its mic hears it in the take with the most strokes, and the strokes of all takes.
struct Heard {
  HeardStrokes strokes;
  DrumInMic drum;
};

Result<Heard> heardDrum(const Song& song, const Layer& layer, const MediaPool& pool, Progress& progress) {
  Heard out;
  const auto strokes = allStrokes(song, layer);
  out.strokes.mic = bestMic(song, layer, pool, strokes);
  std::vector<double> full;
  double loudest = kSilentStroke;
  std::size_t most = 0;
  std::size_t done = 0;
  for (const auto& [take, list] : strokes) {
    if (progress.cancelled()) return cancelledError();
    progress.beginPart(done++, strokes.size());
    auto& attacks = out.strokes.takes[take];
    const auto mic = recordedOn(song, pool, take, out.strokes.mic);
    if (!mic.media) {
      for (const auto& s : list) attacks.push_back({s.at, s.at, 0});
      continue;
    }
    const auto samples = mic.media->channel(0);
    auto drum = drumInMic(samples, placesIn(mic, list), song.rate);
    std::vector<float> there(static_cast<std::size_t>(framesFromMs(kStrokeMs, song.rate).value));
    for (std::size_t i = 0; i < list.size(); ++i) {
      const auto at = list[i].byHand ? (list[i].at - mic.offset).value : drum.strokes[i].at;
      samples.readAround(at, there);
      const double db = strokeDb(there, 0, song.rate);
      attacks.push_back({list[i].at, Frames{at} + mic.offset, db});
      loudest = std::max(loudest, db);
      if (list[i].strength >= kPlainStrength) full.push_back(db - strengthDb(list[i].strength));
    }
    if (list.size() > most) {
      most = list.size();
      out.drum = std::move(drum);
    }
  }
  out.strokes.fullDb = full.empty() ? 0 : std::min(medianOf(full), loudest);
  return out;
}

}  // namespace

std::vector<TrackId> closeMics(const Song& song, const MicSet& set, std::optional<DrumClass> drum) {
  std::vector<TrackId> out;
  for (const auto t : set.tracks)
    if (drum && isClose(song.find(t)->role, *drum)) out.push_back(t);
  return out.empty() ? set.tracks : out;
}

bool needsLiningUp(const Song& song, const Layer& layer) {
  for (const auto& [take, list] : allStrokes(song, layer)) {
    for (const auto& s : list)
      if (!knownAttack(layer, take, s.at)) return true;
  }
  return std::any_of(layer.sounds->sounds.begin(), layer.sounds->sounds.end(),
                     [](const KitSound& s) { return !s.listened; });
}

Result<Layer> linedUp(const Song& song, Layer layer, const MediaPool& pool, Progress& progress) {
  if (!song.find(layer.set)) return layer;
  auto heard = heardDrum(song, layer, pool, progress);
  if (!heard) return tl::unexpected(heard.error());
  SoundSet set = *layer.sounds;
  double loudest = kSilentStroke;
  for (auto& s : set.sounds) {
    const auto found = pool.find(s.media);
    if (found == pool.end()) continue;
    const auto sound = soundOf(s, *found->second);
    // A stroke of the take itself is known to the sample, and has the drum's polarity.
    const bool own = set.origin.empty();
    if (!own) s.attack = Frames{attackIn(sound, song.rate)};
    s.peakDb = strokeDb(sound, s.attack.value, song.rate);
    const auto fit = own ? SoundFit{0, 1} : fitTo(heard->drum, sound, s.attack.value, song.rate);
    s.lag = Frames{fit.lag};
    s.likeness = fit.likeness;
    s.turned = fit.likeness < 0;
    s.listened = true;
    loudest = std::max(loudest, s.peakDb);
  }
  set.fullDb = set.origin.empty() ? heard->strokes.fullDb : loudest;
  layer.sounds = std::move(set);
  layer.heard = std::move(heard->strokes);
  return layer;
}

Result<Song> layersLinedUp(const Song& song, const MediaPool& pool, Progress& progress) {
  Song next = song;
  for (auto& layer : next.layers) {
    if (!needsLiningUp(song, layer)) continue;
    auto lined = linedUp(song, layer, pool, progress);
    if (!lined) return tl::unexpected(lined.error());
    layer = std::move(*lined);
  }
  return next;
}

}  // namespace ochron

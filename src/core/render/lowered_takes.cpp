#include "render/lowered_takes.h"

#include <algorithm>
#include <map>
#include <optional>
#include <tuple>

#include "kit/drum_lowering.h"
#include "kit/line_up.h"
#include "render/laid_over.h"
#include "render/made_key.h"
#include "render/made_store.h"
#include "render/stretched.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {

constexpr int kLoweringVersion = 1;  // raised when the same key would give other sound

/// One recording in which a drum is lowered.
struct LoweredMic {
  Voices voices;  ///< its channels
  MediaId media;
  double share = 0;                   ///< of the drum that goes
  std::vector<std::int64_t> strokes;  ///< frames of the recording
  std::vector<RingingStrokes> parts;
};

std::vector<TrackId> loweredOn(const Song& song, const MicSet& set, const Layer& layer) {
  const auto close = closeMics(song, set, layer.drum);
  if (close.size() < set.tracks.size() || set.tracks.size() == 1) return close;
  return {layer.heard->mic};
}

std::vector<std::int64_t> strokesIn(const Song& song, const Layer& layer, const Take& take, Frames offset) {
  std::vector<std::int64_t> out;
  for (const auto& s : takeStrokes(song, layer, take.id, {Frames{}, take.length})) {
    if (!isHeard(layer, s.hit, s.strength)) continue;
    out.push_back((attackOf(layer, take.id, s.at) - offset).value);
  }
  std::sort(out.begin(), out.end());
  return out;
}

/// Of layers on one drum the one that lowers it most decides.
std::vector<LoweredMic> loweredMics(const Song& song, const MediaPool& pool) {
  std::map<std::tuple<MediaId, std::optional<DrumClass>>, LoweredMic> out;
  for (const auto& layer : song.layers) {
    const auto* set = song.find(layer.set);
    if (!layer.on || layer.settings.blend <= 0 || !set || layer.sounds->sounds.empty()) continue;
    for (const auto& take : song.takes)
      for (const auto track : loweredOn(song, *set, layer)) {
        const auto* mic = song.micOf(take.id, track);
        if (!mic || !pool.contains(mic->media)) continue;
        LoweredMic m;
        m.media = mic->media;
        m.share = layer.settings.blend / 100;
        auto& known = out[{mic->media, layer.drum}];
        if (known.share >= m.share) continue;
        m.strokes = strokesIn(song, layer, take, mic->offset);
        if (m.strokes.empty()) continue;
        Clip whole;
        whole.take = take.id;
        m.voices = voicesOf(song, *set, whole, pool);
        std::erase_if(m.voices.list, [&](const Voice& v) { return v.media != mic->media; });
        m.parts = ringing(m.strokes, static_cast<std::int64_t>(kDrumRingsSeconds * song.rate));
        known = std::move(m);
      }
  }
  std::vector<LoweredMic> list;
  for (auto& [key, mic] : out)
    if (!mic.strokes.empty()) list.push_back(std::move(mic));
  return list;
}

MadeKey keyOf(const LoweredMic& m, const RingingStrokes& part) {
  KeyMaker k(m.voices, "lowered");
  k.add(kLoweringVersion, m.media.value, part.range.start.value, part.range.end.value);
  for (const auto at : m.strokes) k.add(at);  // all of them say how the drum decays
  return k.key();
}

/// A share of a part that begins so many frames behind what it is laid over.
void lay(std::int64_t start, std::span<const float> made, std::span<const float> raw, float share,
         std::span<float> to) {
  for (std::int64_t i = 0; i < std::ssize(made); ++i) {
    const auto at = start + i;
    if (at < 0 || at >= std::ssize(to)) continue;
    const auto f = static_cast<std::size_t>(at);
    const float change = made[static_cast<std::size_t>(i)] - raw[f];
    if (change != 0) to[f] += share * change;
  }
}

}  // namespace

bool anyLowered(const Song& song) {
  return std::any_of(song.layers.begin(), song.layers.end(),
                     [](const Layer& l) { return l.on && l.settings.blend > 0; });
}

MediaPool loweredAtHand(const Song& song, const MediaPool& pool, const MadeStore& store, const MediaPool* previous,
                        bool& missing) {
  MediaPool out = pool;
  if (!anyLowered(song)) return out;
  const auto mics = loweredMics(song, pool);
  std::map<MediaId, KeyMaker> digests;
  struct Patch {
    double share;
    const RingingStrokes* part;
    std::shared_ptr<const DecodedMedia> sound;
  };
  std::map<MediaId, std::vector<Patch>> patches;
  for (const auto& m : mics) {
    auto& all = digests.try_emplace(m.media, m.voices, "lowered take").first->second;
    all.add(m.share);
    for (const auto& part : m.parts) {
      const auto key = keyOf(m, part);
      if (auto sound = store.atHand(key)) {
        all.addText(key.text);
        patches[m.media].push_back({m.share, &part, std::move(sound)});
      } else {
        missing = true;
      }
    }
  }
  for (const auto& [id, list] : patches) {
    const auto digest = digests.at(id).value();
    if (previous) {
      const auto was = previous->find(id);
      if (was != previous->end() && was->second->variant() == digest) {
        out[id] = was->second;
        continue;
      }
    }
    const auto& recording = pool.at(id);
    DecodedMedia::Patches laid;
    for (int c = 0; c < recording->channels(); ++c) {
      LaidOver over(recording->channel(c));
      for (const auto& p : list) {
        const auto made = p.sound->channel(c).floats();
        const auto begin = p.part->range.start.value;
        over.add(begin, begin + std::ssize(made),
                 [made, begin, share = p.share](std::int64_t from, std::span<const float> raw, std::span<float> to) {
                   lay(begin - from, made, raw, static_cast<float>(share), to);
                 });
      }
      laid.channels.push_back(over.patches(laid.owned));
    }
    out[id] = DecodedMedia::variant(recording, std::move(laid), digest);
  }
  return out;
}

Result<void> makeLowered(const Song& song, const MediaPool& pool, MadeStore& store, Frames near, Progress& progress,
                         const std::function<void()>& made) {
  if (!anyLowered(song)) return {};
  const auto mics = loweredMics(song, pool);
  for (std::size_t n = 0; n < mics.size(); ++n) {
    progress.beginPart(n, mics.size());
    const auto& m = mics[n];
    std::vector<const RingingStrokes*> missing;
    for (const auto& part : m.parts)
      if (!store.atHand(keyOf(m, part))) missing.push_back(&part);
    std::stable_sort(missing.begin(), missing.end(), [&](auto* a, auto* b) {
      return std::abs(a->range.start.value - near.value) < std::abs(b->range.start.value - near.value);
    });
    std::vector<DrumDecay> decays(m.voices.list.size());
    double done = 0;
    for (const auto* part : missing) {
      if (progress.cancelled()) return cancelledError();
      const auto key = keyOf(m, *part);
      if (!store.find(key)) {
        Channels sound;
        for (std::size_t v = 0; v < decays.size(); ++v) {
          const auto& samples = m.voices.list[v].sound->channel(m.voices.list[v].channel);
          if (decays[v].size == 0) decays[v] = decayOf(samples, m.strokes, m.voices.rate);
          sound.push_back(withoutDrum(samples, part->strokes, decays[v], part->range, m.voices.rate));
        }
        store.keep(keyNow(key, m.voices), m.voices.rate, std::move(sound));
      }
      progress.report(++done / static_cast<double>(missing.size()));
      if (made) made();
    }
  }
  return {};
}

}  // namespace ochron

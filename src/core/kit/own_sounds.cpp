#include "kit/own_sounds.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <map>
#include <set>

#include "kit/drum_strokes.h"
#include "kit/stroke_level.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {

constexpr double kAloneBeforeMs = 50;  // to any other stroke
constexpr double kAloneAfterMs = 120;
constexpr double kLongestMs = 800;     // of a sound
constexpr double kBeforeAttackMs = 1;  // kept
constexpr double kBeforeNextMs = 3;    // left out before the next stroke
constexpr double kLeastClearDb = 12;
constexpr double kSofterDb = 20;    // than a full stroke, and another drum may sound along
constexpr double kTogetherMs = 10;  // struck at once
constexpr double kApartMs = 150;    // behind a stroke of the drum, where others show what they come to
constexpr std::size_t kMostLevels = 4;
constexpr std::size_t kMostAlternates = 4;
constexpr std::size_t kFewestOfLevel = 3;

/// A take's strokes and the mic of the layer's drum.
struct HeardTake {
  Samples mic;
  Frames offset;
  std::vector<DrumStroke> strokes;  ///< of anything, in order

  double db(Frames at, int rate) const {
    std::vector<float> there(static_cast<std::size_t>(framesFromMs(kStrokeMs, rate).value));
    mic.readAround((at - offset).value, there);
    return strokeDb(there, 0, rate);
  }
};

std::vector<DrumStroke> everything(const Song& song, const Layer& layer, TakeId take) {
  std::vector<DrumStroke> out;
  const auto* set = song.find(layer.set);
  for (const auto& h : activeHits(*song.hitsOf(take, layer.set), set->hits, song.rate))
    for (const auto& s : strokesOf(h)) out.push_back(s);
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.at < b.at; });
  return out;
}

/// Other drums may be struck with some of them: the softer ones tell.
double lowQuartileOf(std::vector<double> values) {
  const auto at = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 4);
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

/// Drums that are so soft in the mic that they may sound along: what their strokes come to where the layer's drum is
/// silent.
std::set<DrumClass> hardlyHeard(const Song& song, const Layer& layer, const HeardTake& heard) {
  std::map<DrumClass, std::vector<double>> levels;
  const auto apart = framesFromMs(kApartMs, song.rate);
  for (const auto& s : heard.strokes) {
    const auto with = framesFromMs(kTogetherMs, song.rate);
    const bool near = std::any_of(heard.strokes.begin(), heard.strokes.end(), [&](const DrumStroke& o) {
      return o.drum == layer.drum && o.at > s.at - apart && o.at < s.at + with;
    });
    if (!near) levels[s.drum].push_back(heard.db(s.at, song.rate));
  }
  std::set<DrumClass> out;
  for (auto& [drum, db] : levels)
    if (drum != layer.drum && lowQuartileOf(db) < layer.heard->fullDb - kSofterDb) out.insert(drum);
  return out;
}

KitSound asSound(const Song& song, const Layer& layer, const OwnStroke& stroke) {
  const auto* mic = song.micOf(stroke.take, layer.heard->mic);
  KitSound s;
  std::array<char, 64> name{};
  std::snprintf(name.data(), name.size(), "stroke at %.2f s",
                static_cast<double>(stroke.at.value) / static_cast<double>(song.rate));
  s.name = name.data();
  s.media = mic->media;
  const auto from = stroke.at - mic->offset - framesFromMs(kBeforeAttackMs, song.rate);
  s.range = {std::max(Frames{}, from), stroke.at - mic->offset + stroke.length};
  s.attack = stroke.at - mic->offset - s.range.start;
  return s;
}

}  // namespace

std::vector<OwnStroke> cleanStrokes(const Song& song, const Layer& layer, const MediaPool& pool) {
  std::vector<OwnStroke> out;
  for (const auto& take : song.takes) {
    const auto* mic = song.micOf(take.id, layer.heard->mic);
    const auto media = mic ? pool.find(mic->media) : pool.end();
    if (media == pool.end()) continue;
    HeardTake heard{media->second->channel(0), mic->offset, everything(song, layer, take.id)};
    const auto soft = hardlyHeard(song, layer, heard);
    std::vector<Frames> all;
    for (const auto& s : heard.strokes)
      if (!soft.contains(s.drum)) all.push_back(s.at);
    for (const auto& s : takeStrokes(song, layer, take.id, {Frames{}, take.length})) {
      const auto next = std::upper_bound(all.begin(), all.end(), s.at);
      const auto here = std::lower_bound(all.begin(), all.end(), s.at);
      if (next - here > 1) continue;  // struck together with something
      const auto before = here == all.begin() ? s.at : s.at - *(here - 1);
      const auto end = std::min(next == all.end() ? take.length : *next, mic->offset + media->second->length());
      if (here != all.begin() && before < framesFromMs(kAloneBeforeMs, song.rate)) continue;
      if (end - s.at < framesFromMs(kAloneAfterMs, song.rate)) continue;
      const std::array place{(attackOf(layer, take.id, s.at) - mic->offset).value};
      const double db = 10 * std::log10(standsOut(heard.mic, place, song.rate) + 1e-9);
      if (db < kLeastClearDb) continue;
      const auto length =
          std::min(framesFromMs(kLongestMs, song.rate), end - s.at - framesFromMs(kBeforeNextMs, song.rate));
      out.push_back({take.id, attackOf(layer, take.id, s.at), length, s.strength, db});
    }
  }
  std::stable_sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.clearDb > b.clearDb; });
  return out;
}

Result<SoundSet> ownSounds(const Song& song, const Layer& layer, const MediaPool& pool) {
  auto clean = cleanStrokes(song, layer, pool);
  if (clean.empty())
    return fail(ErrorKind::refused,
                "No stroke of this drum stands alone in its mic, so no sound can be made of them. Choose a file.");
  std::stable_sort(clean.begin(), clean.end(), [](auto& a, auto& b) { return a.strength < b.strength; });
  const auto levels = std::clamp<std::size_t>(clean.size() / kFewestOfLevel, 1, kMostLevels);
  SoundSet out;
  out.name = "own strokes";
  double low = 0;
  for (std::size_t level = 0; level < levels; ++level) {
    const auto from = clean.begin() + static_cast<std::ptrdiff_t>(level * clean.size() / levels);
    const auto to = clean.begin() + static_cast<std::ptrdiff_t>((level + 1) * clean.size() / levels);
    const double high = level + 1 == levels ? 1 : ((to - 1)->strength + to->strength) / 2;
    std::vector<OwnStroke> group(from, to);
    std::stable_sort(group.begin(), group.end(), [](auto& a, auto& b) { return a.clearDb > b.clearDb; });
    group.resize(std::min(group.size(), kMostAlternates));
    for (const auto& stroke : group) {
      auto s = asSound(song, layer, stroke);
      s.low = low;
      s.high = high;
      out.sounds.push_back(std::move(s));
    }
    low = high;
  }
  return out;
}

}  // namespace ochron

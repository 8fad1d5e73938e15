#include "render/layer_segments.h"

#include <algorithm>
#include <cmath>

#include "base/all_cores.h"

namespace ochron {
namespace {

float sideGain(double pan, bool left) {
  const double away = left ? pan : -pan;
  return static_cast<float>(away > 0 ? 1 - away / 100 : 1);
}

}  // namespace

std::vector<std::shared_ptr<const DecodedMedia>> mediaOf(const Layer& layer, const MediaPool& pool) {
  std::vector<std::shared_ptr<const DecodedMedia>> out;
  for (const auto& s : layer.sounds->sounds)
    if (const auto found = pool.find(s.media); found != pool.end()) out.push_back(found->second);
  return out;
}

std::vector<PlayedSound> playedSounds(const Layer& layer, const MediaPool& pool) {
  const auto& sounds = layer.sounds->sounds;
  std::vector<PlayedSound> out(sounds.size());
  Progress progress;
  onAllCores(sounds.size(), progress, [&](std::size_t i, Progress&) {
    if (const auto found = pool.find(sounds[i].media); found != pool.end())
      out[i] = playedSound(sounds[i], layer.settings, *found->second);
  });
  return out;
}

std::vector<std::shared_ptr<const SegmentList>> layerSegments(const Song& song, const Layer& layer,
                                                              const std::vector<LayerStroke>& strokes,
                                                              const std::vector<PlayedSound>& played) {
  const auto& sounds = layer.sounds->sounds;
  bool wide = layer.settings.pan != 0;
  for (std::size_t i = 0; i < sounds.size(); ++i)
    wide = wide || played[i].channels.size() > 1 || (!played[i].channels.empty() && sounds[i].pan != 0);
  const auto offset = framesFromMs(layer.settings.offsetMs, song.rate);
  std::vector<std::shared_ptr<const SegmentList>> out;
  for (int c = 0; c < (wide ? 2 : 1); ++c) {
    auto list = std::make_shared<SegmentList>();
    std::vector<Samples> samples;
    for (const auto& p : played)
      samples.push_back(p.channels.empty()
                            ? Samples()
                            : Samples(p.channels[std::min(static_cast<std::size_t>(c), p.channels.size() - 1)]));
    for (const auto& stroke : strokes) {
      if (!stroke.heard || samples[stroke.sound].empty()) continue;
      const auto& sound = sounds[stroke.sound];
      Segment s;
      s.samples = samples[stroke.sound];
      s.start = stroke.at - played[stroke.sound].attack + sound.lag + offset;
      s.length = Frames{static_cast<std::int64_t>(s.samples.size())};
      s.gain = static_cast<float>(std::pow(10.0, stroke.gainDb / 20)) * (stroke.turned ? -1.0F : 1.0F);
      if (wide) s.gain *= sideGain(layer.settings.pan, c == 0) * sideGain(sound.pan, c == 0);
      s.rampStart = s.start;
      s.rampEnd = s.end();
      list->segments.push_back(s);
    }
    std::stable_sort(list->segments.begin(), list->segments.end(),
                     [](const Segment& a, const Segment& b) { return a.start < b.start; });
    Frames end;
    for (const auto& s : list->segments) list->ends.push_back(end = std::max(end, s.end()));
    out.push_back(std::move(list));
  }
  return out;
}

}  // namespace ochron

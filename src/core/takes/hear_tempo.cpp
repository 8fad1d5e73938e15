#include "takes/hear_tempo.h"

#include <algorithm>
#include <cmath>

namespace ochron {

std::vector<float> mixOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool) {
  const auto* recorded = song.find(take);
  std::vector<float> out(recorded ? static_cast<std::size_t>(recorded->length.value) : 0, 0.0F);
  for (const auto track : set.tracks) {
    const auto* mic = song.micOf(take, track);
    const auto found = mic ? pool.find(mic->media) : pool.end();
    if (found == pool.end()) continue;
    const auto& media = *found->second;
    for (int c = 0; c < media.channels(); ++c) {
      const auto samples = media.channel(c);
      for (std::int64_t i = 0; i < std::ssize(samples); ++i) {
        const auto at = i + mic->offset.value;
        if (at >= 0 && at < std::ssize(out))
          out[static_cast<std::size_t>(at)] +=
              samples[static_cast<std::size_t>(i)] / static_cast<float>(media.channels());
      }
    }
  }
  return out;
}

Result<TempoMap> tempoMapOf(const HeardTempo& heard, int rate, std::optional<Meter> meter) {
  const Meter bars = meter.value_or(Meter{heard.beatsPerBar, 4});
  const auto frameOf = [&](double seconds) { return Frames{std::llround(seconds * rate)}; };
  const double start = !heard.downbeats.empty() ? heard.downbeats.front()
                       : !heard.beats.empty()   ? heard.beats.front()
                                                : 0.0;
  if (heard.steady || heard.downbeats.size() < 2) return TempoMap::steady(rate, heard.bpm, bars, frameOf(start));
  std::vector<TempoEvent> tempos;
  const double quarters = static_cast<double>(Meter{heard.beatsPerBar, 4}.barLength().value) / kTicksPerQuarter;
  for (std::size_t i = 0; i + 1 < heard.downbeats.size(); ++i) {
    const double bpm = quarters * 60 / (heard.downbeats[i + 1] - heard.downbeats[i]);
    tempos.push_back(
        {Meter{heard.beatsPerBar, 4}.barLength() * static_cast<std::int64_t>(i), kBpmRange.clamp(bpm), false});
  }
  return TempoMap::make(rate, frameOf(start), std::move(tempos), {MeterEvent{0, bars}});
}

}  // namespace ochron

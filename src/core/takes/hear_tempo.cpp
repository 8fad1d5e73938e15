#include "takes/hear_tempo.h"

#include <algorithm>
#include <cmath>

#include "time/grid.h"

namespace ochron {

std::vector<float> mixOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool) {
  const auto* recorded = song.find(take);
  std::vector<float> out(recorded ? static_cast<std::size_t>(recorded->length.value) : 0, 0.0F);
  for (const auto track : set.tracks) {
    const auto* mic = song.micOf(take, track);
    if (!mic) continue;
    const auto found = pool.find(mic->media);
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

namespace {

/// Quarter notes a minute, in a meter that may be another one than was heard: beats that are counted in eighths by
/// threes are dotted quarters.
double quartersABeat(const HeardTempo& heard, Meter meter) {
  const bool compound = meter.unit == 8 && meter.beats % 3 == 0;
  return meter == heard.meter ? heard.quartersABeat() : compound ? 1.5 : 1.0;
}

}  // namespace

Result<TempoMap> tempoMapOf(const HeardTempo& heard, int rate, std::optional<Meter> asked) {
  const Meter meter = asked.value_or(heard.meter);
  const auto meters = asked ? std::vector{MeterEvent{0, *asked}} : heard.meters();
  const auto frameOf = [&](double seconds) { return Frames{std::llround(seconds * rate)}; };
  const double start = !heard.downbeats.empty() ? heard.downbeats.front()
                       : !heard.beats.empty()   ? heard.beats.front()
                                                : 0.0;
  if (heard.steady || heard.downbeats.size() < 2)
    return TempoMap::make(rate, frameOf(start), {{Ticks{}, heard.bpm * quartersABeat(heard, meter), false}}, meters);
  std::vector<TempoEvent> tempos;
  const double wider = quartersABeat(heard, meter) / heard.quartersABeat();
  Ticks at;
  for (std::size_t i = 0; i + 1 < heard.downbeats.size(); ++i) {
    const Ticks bar{std::llround(static_cast<double>(heard.meterOfBar(static_cast<int>(i)).barLength().value) * wider)};
    const double quarters = static_cast<double>(bar.value) / kTicksPerQuarter;
    const double bpm = quarters * 60 / (heard.downbeats[i + 1] - heard.downbeats[i]);
    tempos.push_back({at, kBpmRange.clamp(bpm), false});
    at += bar;
  }
  return TempoMap::make(rate, frameOf(start), std::move(tempos), meters);
}

std::string metersText(const HeardTempo& heard) {
  constexpr std::size_t kShown = 2;
  std::string others;
  std::size_t count = 0;
  for (std::size_t i = 0; i < heard.changes.size(); ++i) {
    const auto& c = heard.changes[i];
    if (c.meter == heard.meter) continue;
    if (++count > kShown) continue;
    const int last = i + 1 < heard.changes.size() ? heard.changes[i + 1].bar : static_cast<int>(heard.downbeats.size());
    others += (others.empty() ? "" : ", ") +
              (last - c.bar > 1 ? "bars " + std::to_string(c.bar + 1) + " to " + std::to_string(last)
                                : "bar " + std::to_string(c.bar + 1)) +
              ": " + toText(c.meter);
  }
  if (count > kShown) others += ", and " + std::to_string(count - kShown) + " more";
  return toText(heard.meter) + (others.empty() ? "" : " (" + others + ")");
}

}  // namespace ochron

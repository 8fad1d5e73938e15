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

std::vector<float> bandOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool) {
  constexpr double kUnderDrums = 0.5;  // amplitude
  const auto placed = [](const MicSet& s) -> const Clip* {
    const auto first =
        std::find_if(s.clips->begin(), s.clips->end(), [](const Clip& c) { return c.map.identity() && !c.reversed; });
    return first == s.clips->end() ? nullptr : &*first;
  };
  const auto own = std::find_if(set.clips->begin(), set.clips->end(), [&](auto& c) { return c.take == take; });
  const Frames at = own == set.clips->end() ? Frames{} : own->toSong(Frames{});
  std::vector<float> drums;
  std::vector<float> others;
  const auto add = [&](const MicSet& s, TakeId of, Frames shift) {
    auto& to = song.isKit(s, of) ? drums : others;
    const auto sound = mixOf(song, s, of, pool);
    const auto end = shift.value + std::ssize(sound);
    if (end > std::ssize(to)) to.resize(static_cast<std::size_t>(end), 0.0F);
    for (auto i = std::max<std::int64_t>(0, -shift.value); i < std::ssize(sound); ++i)
      to[static_cast<std::size_t>(i + shift.value)] += sound[static_cast<std::size_t>(i)];
  };
  add(set, take, Frames{});
  for (const auto& s : song.sets)
    if (const auto* clip = placed(s); s.id != set.id && clip) add(s, clip->take, clip->toSong(Frames{}) - at);
  const auto powerOf = [](const std::vector<float>& x) {
    double sum = 1e-12;
    for (const float v : x) sum += static_cast<double>(v) * v;
    return sum;
  };
  const double softer = drums.empty() ? 1 : std::min(1.0, kUnderDrums * std::sqrt(powerOf(drums) / powerOf(others)));
  auto out = mixOf(song, set, take, pool);
  std::fill(out.begin(), out.end(), 0.0F);
  for (std::size_t i = 0; i < out.size(); ++i) {
    if (i < drums.size()) out[i] += drums[i];
    if (i < others.size()) out[i] += static_cast<float>(softer) * others[i];
  }
  return out;
}

std::string steadyText(const HeardTempo& heard) {
  constexpr std::size_t kShown = 3;
  if (!heard.steady) return "wandering";
  std::string out = "steady";
  const auto barOf = [&](double seconds) {
    const auto after = std::upper_bound(heard.downbeats.begin(), heard.downbeats.end(), seconds);
    return std::max<std::ptrdiff_t>(1, after - heard.downbeats.begin());
  };
  std::vector<std::pair<std::ptrdiff_t, std::ptrdiff_t>> bars;  // first and last; what follows each other is one
  for (const auto& a : heard.away) {
    const auto first = barOf(a.from);
    if (!bars.empty() && first <= bars.back().second + 1)
      bars.back().second = std::max(bars.back().second, barOf(a.to));
    else
      bars.emplace_back(first, barOf(a.to));
  }
  for (std::size_t i = 0; i < std::min(kShown, bars.size()); ++i) {
    const auto [first, last] = bars[i];
    out += (i > 0                               ? ", "
            : bars.size() == 1 && first == last ? " but for bar "
                                                : " but for bars ") +
           std::to_string(first) + (last > first ? " to " + std::to_string(last) : std::string());
  }
  if (bars.size() > kShown)
    out +=
        " and " + std::to_string(bars.size() - kShown) + (bars.size() == kShown + 1 ? " place more" : " places more");
  return out;
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

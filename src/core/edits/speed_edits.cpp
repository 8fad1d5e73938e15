#include "edits/speed_edits.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

constexpr double kA4 = 440;
constexpr double kStepMs = 5;  // from one speed to another

}  // namespace

double percentOf(SpeedUnit unit, double value, double bpm) {
  switch (unit) {
    case SpeedUnit::percent: return value;
    case SpeedUnit::bpm: return 100 * value / bpm;
    case SpeedUnit::semitones: return 100 * std::exp2(value / 12);
    case SpeedUnit::cents: return 100 * std::exp2(value / 1200);
    case SpeedUnit::a4: return 100 * value / kA4;
  }
  return 100;
}

double speedIn(SpeedUnit unit, double percent, double bpm) {
  switch (unit) {
    case SpeedUnit::percent: return percent;
    case SpeedUnit::bpm: return bpm * percent / 100;
    case SpeedUnit::semitones: return 12 * std::log2(percent / 100);
    case SpeedUnit::cents: return 1200 * std::log2(percent / 100);
    case SpeedUnit::a4: return kA4 * percent / 100;
  }
  return percent;
}

Result<Song> setSongSpeed(const Song& song, double percent, FrameRange range) {
  if (!kSpeedRange.accepts(percent))
    return fail(ErrorKind::badInput, "A song runs at 25 % to 400 % of its speed. Choose a speed in between.");
  Song next = song;
  if (range.empty()) {
    next.speedEnvelope = percent == kSpeedRange.fallback ? Envelope{} : Envelope{{Frames{}, percent, 0}};
    return next;
  }
  const auto& was = *song.speedEnvelope;
  const auto step = framesFromMs(kStepMs, song.rate);
  Envelope out;
  for (const auto& p : was)
    if (p.at < range.start - step || p.at > range.end + step) out.push_back(p);
  const auto put = [&](Frames at, double value) { out = withPoint(std::move(out), {at, value, 0}); };
  put(range.start - step, valueAt(was, range.start - step, kSpeedRange.fallback));
  put(range.start, percent);
  put(range.end, percent);
  put(range.end + step, valueAt(was, range.end + step, kSpeedRange.fallback));
  const bool recorded =
      std::all_of(out.begin(), out.end(), [](const EnvelopePoint& p) { return p.value == kSpeedRange.fallback; });
  next.speedEnvelope = recorded ? Envelope{} : out;
  return next;
}

Song setSpeedManner(const Song& song, const SpeedManner& manner) {
  Song next = song;
  next.speedManner = manner;
  return next;
}

TempoMap playedTempo(const Song& song) {
  const auto& speed = *song.speedEnvelope;
  if (speed.empty()) return song.tempo;
  std::vector<TempoEvent> tempos;
  const auto& map = song.tempo;
  const auto at = [&](Ticks t) { return valueAt(speed, map.toFrames(t), kSpeedRange.fallback) / 100; };
  if (speed.size() == 1) {
    tempos = map.tempos();
    for (auto& t : tempos) t.bpm *= speed.front().value / 100;
  } else {
    const Ticks step{kTicksPerQuarter / 4};
    const auto last = map.toTicks(std::max(song.end(), speed.back().at)) + step;
    for (Ticks t; t < last; t += step) {
      const double bpm = map.bpmAt(t) * (at(t) + at(t + step)) / 2;
      if (tempos.empty() || std::abs(bpm - tempos.back().bpm) > 1e-6) tempos.push_back({t, bpm, false});
    }
  }
  for (auto& t : tempos) t.bpm = kBpmRange.clamp(t.bpm);
  const auto made = TempoMap::make(song.rate, Frames{}, tempos, map.meters());
  return made ? *made : map;
}

}  // namespace ochron

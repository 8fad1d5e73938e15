#include "time/tempo_map.h"

#include <algorithm>
#include <cmath>
#include <string>

namespace ochron {
namespace {

constexpr double kSecondsPerTickAtOneBpm = 60.0 / static_cast<double>(kTicksPerQuarter);

bool validMeter(Meter m) {
  const bool powerOfTwo = m.unit > 0 && (m.unit & (m.unit - 1)) == 0;
  return m.beats >= 1 && m.beats <= 64 && powerOfTwo && m.unit <= 64;
}

}  // namespace

TempoMap::TempoMap() : tempos_{TempoEvent{}}, meters_{MeterEvent{}} { index(); }

Result<TempoMap> TempoMap::make(int rate, Frames origin, std::vector<TempoEvent> tempos,
                                std::vector<MeterEvent> meters) {
  if (rate < 8'000 || rate > 384'000)
    return fail(ErrorKind::badInput, "The sample rate must lie between 8 000 and 384 000 Hz.");
  if (tempos.empty() || meters.empty()) return fail(ErrorKind::badInput, "A tempo map needs a tempo and a meter.");
  std::sort(tempos.begin(), tempos.end(), [](auto& a, auto& b) { return a.at < b.at; });
  std::sort(meters.begin(), meters.end(), [](auto& a, auto& b) { return a.bar < b.bar; });
  for (std::size_t i = 0; i < tempos.size(); ++i) {
    if (!kBpmRange.accepts(tempos[i].bpm))  // also refuses NaN
      return fail(ErrorKind::badInput, "A tempo must lie between 10 and 999 BPM.");
    if (i > 0 && tempos[i].at == tempos[i - 1].at)
      return fail(ErrorKind::badInput, "Two tempo events stand at the same place.");
  }
  for (std::size_t i = 0; i < meters.size(); ++i) {
    if (!validMeter(meters[i].meter))
      return fail(ErrorKind::badInput, "A meter needs 1 to 64 beats of 1/1 to 1/64; got " +
                                           std::to_string(meters[i].meter.beats) + "/" +
                                           std::to_string(meters[i].meter.unit) + ".");
    if (i > 0 && meters[i].bar == meters[i - 1].bar)
      return fail(ErrorKind::badInput, "Two meters stand at the same bar.");
  }
  tempos.back().ramp = false;
  TempoMap map;
  map.rate_ = rate;
  map.origin_ = origin;
  map.tempos_ = std::move(tempos);
  map.meters_ = std::move(meters);
  map.index();
  return map;
}

Result<TempoMap> TempoMap::steady(int rate, double bpm, Meter meter, Frames origin) {
  return make(rate, origin, {TempoEvent{Ticks{0}, bpm, false}}, {MeterEvent{0, meter}});
}

void TempoMap::index() {
  segments_.clear();
  for (std::size_t i = 0; i < tempos_.size(); ++i) {
    Segment s{tempos_[i].at, 0, tempos_[i].bpm, 0};
    if (tempos_[i].ramp) s.slope = (tempos_[i + 1].bpm - s.bpm) / static_cast<double>((tempos_[i + 1].at - s.at).value);
    if (i > 0) {
      const auto& before = segments_.back();
      s.seconds = before.seconds + secondsInto(before, static_cast<double>((s.at - before.at).value));
    }
    segments_.push_back(s);
  }
  // Seconds count from tick 0, wherever the first event stands.
  const auto& first = segments_.front();
  const double shift =
      first.at.value > 0 ? secondsInto({first.at, 0, first.bpm, 0}, static_cast<double>(first.at.value)) : -[&] {
        const auto& s = segmentAt(Ticks{0});
        return s.seconds + secondsInto(s, static_cast<double>(-s.at.value));
      }();
  for (auto& s : segments_) s.seconds += shift;

  spans_.clear();
  for (const auto& m : meters_) {
    // The first meter reaches back to bar 0 and before.
    MeterSpan span{spans_.empty() ? 0 : m.bar, Ticks{0}, m.meter};
    if (spans_.empty() && m.bar < 0) span.bar = m.bar, span.at = m.meter.barLength() * m.bar;
    if (!spans_.empty()) span.at = spans_.back().at + spans_.back().meter.barLength() * (m.bar - spans_.back().bar);
    spans_.push_back(span);
  }
}

const TempoMap::Segment& TempoMap::segmentAt(Ticks t) const {
  auto it = std::upper_bound(segments_.begin(), segments_.end(), t, [](Ticks x, const Segment& s) { return x < s.at; });
  return it == segments_.begin() ? segments_.front() : *(it - 1);
}

// Integral of 60 / bpm(x) with bpm(x) = bpm + slope * x: linear, or 60 / slope * ln(1 + slope * x / bpm).
double TempoMap::secondsInto(const Segment& s, double ticks) {
  if (s.slope == 0 || ticks < 0) return ticks * kSecondsPerTickAtOneBpm / s.bpm;
  return kSecondsPerTickAtOneBpm / s.slope * std::log1p(s.slope * ticks / s.bpm);
}

double TempoMap::secondsFromOrigin(Ticks t) const {
  const auto& s = segmentAt(t);
  return s.seconds + secondsInto(s, static_cast<double>((t - s.at).value));
}

Frames TempoMap::toFrames(Ticks t) const { return origin_ + Frames{std::llround(secondsFromOrigin(t) * rate_)}; }

Ticks TempoMap::toTicks(Frames f) const {
  const double seconds = static_cast<double>((f - origin_).value) / rate_;
  auto it = std::upper_bound(segments_.begin(), segments_.end(), seconds,
                             [](double x, const Segment& s) { return x < s.seconds; });
  const auto& s = it == segments_.begin() ? segments_.front() : *(it - 1);
  const double into = seconds - s.seconds;
  const double ticks = s.slope == 0 || into < 0
                           ? into * s.bpm / kSecondsPerTickAtOneBpm
                           : s.bpm / s.slope * std::expm1(s.slope * into / kSecondsPerTickAtOneBpm);
  return s.at + Ticks{std::llround(ticks)};
}

double TempoMap::bpmAt(Ticks t) const {
  const auto& s = segmentAt(t);
  return s.bpm + s.slope * static_cast<double>(std::max<std::int64_t>(0, (t - s.at).value));
}

Meter TempoMap::meterOfBar(int bar) const {
  auto it = std::upper_bound(spans_.begin(), spans_.end(), bar, [](int b, const MeterSpan& s) { return b < s.bar; });
  return it == spans_.begin() ? spans_.front().meter : (it - 1)->meter;
}

Ticks TempoMap::barStart(int bar) const {
  auto it = std::upper_bound(spans_.begin(), spans_.end(), bar, [](int b, const MeterSpan& s) { return b < s.bar; });
  const auto& s = it == spans_.begin() ? spans_.front() : *(it - 1);
  return s.at + s.meter.barLength() * (bar - s.bar);
}

int TempoMap::barAt(Ticks t) const {
  auto it = std::upper_bound(spans_.begin(), spans_.end(), t, [](Ticks x, const MeterSpan& s) { return x < s.at; });
  const auto& s = it == spans_.begin() ? spans_.front() : *(it - 1);
  const auto length = s.meter.barLength().value;
  const auto into = (t - s.at).value;
  return s.bar + static_cast<int>(into >= 0 ? into / length : -((-into + length - 1) / length));
}

MusicalPosition TempoMap::position(Ticks t) const {
  const int bar = barAt(t);
  const auto into = t - barStart(bar);
  const auto beat = meterOfBar(bar).beatLength();
  return {bar, static_cast<int>(into.value / beat.value), Ticks{into.value % beat.value}};
}

}  // namespace ochron

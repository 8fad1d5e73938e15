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

TempoMap::TempoMap(Data data) {
  data.index();
  data_ = std::make_shared<const Data>(std::move(data));
}

TempoMap::TempoMap() : TempoMap(Data{}) {}

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
  return TempoMap(Data{rate, origin, std::move(tempos), std::move(meters), {}, {}});
}

Result<TempoMap> TempoMap::steady(int rate, double bpm, Meter meter, Frames origin) {
  return make(rate, origin, {TempoEvent{Ticks{0}, bpm, false}}, {MeterEvent{0, meter}});
}

void TempoMap::Data::index() {
  segments.clear();
  for (std::size_t i = 0; i < tempos.size(); ++i) {
    Segment s{tempos[i].at, 0, tempos[i].bpm, 0};
    if (tempos[i].ramp) s.slope = (tempos[i + 1].bpm - s.bpm) / static_cast<double>((tempos[i + 1].at - s.at).value);
    if (i > 0) {
      const auto& before = segments.back();
      s.seconds = before.seconds + secondsInto(before, static_cast<double>((s.at - before.at).value));
    }
    segments.push_back(s);
  }
  // Seconds count from tick 0, wherever the first event stands.
  const auto& first = segments.front();
  const double shift =
      first.at.value > 0 ? secondsInto({first.at, 0, first.bpm, 0}, static_cast<double>(first.at.value)) : -[&] {
        const auto& s = segmentAt(Ticks{0});
        return s.seconds + secondsInto(s, static_cast<double>(-s.at.value));
      }();
  for (auto& s : segments) s.seconds += shift;

  spans.clear();
  for (const auto& m : meters) {
    // The first meter reaches back to bar 0 and before.
    MeterSpan span{spans.empty() ? 0 : m.bar, Ticks{0}, m.meter};
    if (spans.empty() && m.bar < 0) {
      span.bar = m.bar;
      span.at = m.meter.barLength() * m.bar;
    }
    if (!spans.empty()) span.at = spans.back().at + spans.back().meter.barLength() * (m.bar - spans.back().bar);
    spans.push_back(span);
  }
}

const TempoMap::Segment& TempoMap::Data::segmentAt(Ticks t) const {
  auto it = std::upper_bound(segments.begin(), segments.end(), t, [](Ticks x, const Segment& s) { return x < s.at; });
  return it == segments.begin() ? segments.front() : *(it - 1);
}

// Integral of 60 / bpm(x) with bpm(x) = bpm + slope * x: linear, or 60 / slope * ln(1 + slope * x / bpm).
double TempoMap::secondsInto(const Segment& s, double ticks) {
  if (s.slope == 0 || ticks < 0) return ticks * kSecondsPerTickAtOneBpm / s.bpm;
  return kSecondsPerTickAtOneBpm / s.slope * std::log1p(s.slope * ticks / s.bpm);
}

double TempoMap::secondsFromOrigin(Ticks t) const {
  const auto& s = data_->segmentAt(t);
  return s.seconds + secondsInto(s, static_cast<double>((t - s.at).value));
}

Frames TempoMap::toFrames(Ticks t) const {
  return data_->origin + Frames{std::llround(secondsFromOrigin(t) * data_->rate)};
}

Ticks TempoMap::toTicks(Frames f) const {
  const double seconds = static_cast<double>((f - data_->origin).value) / data_->rate;
  auto it = std::upper_bound(data_->segments.begin(), data_->segments.end(), seconds,
                             [](double x, const Segment& s) { return x < s.seconds; });
  const auto& s = it == data_->segments.begin() ? data_->segments.front() : *(it - 1);
  const double into = seconds - s.seconds;
  const double ticks = s.slope == 0 || into < 0
                           ? into * s.bpm / kSecondsPerTickAtOneBpm
                           : s.bpm / s.slope * std::expm1(s.slope * into / kSecondsPerTickAtOneBpm);
  return s.at + Ticks{std::llround(ticks)};
}

double TempoMap::bpmAt(Ticks t) const {
  const auto& s = data_->segmentAt(t);
  return s.bpm + s.slope * static_cast<double>(std::max<std::int64_t>(0, (t - s.at).value));
}

Meter TempoMap::meterOfBar(int bar) const {
  auto it = std::upper_bound(data_->spans.begin(), data_->spans.end(), bar,
                             [](int b, const MeterSpan& s) { return b < s.bar; });
  return it == data_->spans.begin() ? data_->spans.front().meter : (it - 1)->meter;
}

Ticks TempoMap::barStart(int bar) const {
  auto it = std::upper_bound(data_->spans.begin(), data_->spans.end(), bar,
                             [](int b, const MeterSpan& s) { return b < s.bar; });
  const auto& s = it == data_->spans.begin() ? data_->spans.front() : *(it - 1);
  return s.at + s.meter.barLength() * (bar - s.bar);
}

int TempoMap::barAt(Ticks t) const {
  auto it = std::upper_bound(data_->spans.begin(), data_->spans.end(), t,
                             [](Ticks x, const MeterSpan& s) { return x < s.at; });
  const auto& s = it == data_->spans.begin() ? data_->spans.front() : *(it - 1);
  const auto length = s.meter.barLength().value;
  const auto into = (t - s.at).value;
  return s.bar + static_cast<int>(into >= 0 ? into / length : -((-into + length - 1) / length));
}

int TempoMap::barAt(Frames f) const {
  int bar = barAt(toTicks(f));
  while (toFrames(barStart(bar + 1)) <= f) ++bar;
  while (toFrames(barStart(bar)) > f) --bar;
  return bar;
}

MusicalPosition TempoMap::position(Frames f) const {
  const int bar = barAt(f);
  const auto beat = meterOfBar(bar).beatLength();
  const auto start = barStart(bar);
  int at = 0;
  while (at + 1 < meterOfBar(bar).beats && toFrames(start + beat * (at + 1)) <= f) ++at;
  return {bar, at, std::max(Ticks{}, toTicks(f) - start - beat * at)};
}

MusicalPosition TempoMap::position(Ticks t) const {
  const int bar = barAt(t);
  const auto into = t - barStart(bar);
  const auto beat = meterOfBar(bar).beatLength();
  return {bar, static_cast<int>(into.value / beat.value), Ticks{into.value % beat.value}};
}

}  // namespace ochron

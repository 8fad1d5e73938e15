#include "time/anchors.h"

#include <algorithm>
#include <cmath>

#include "base/numbers.h"

namespace ochron {
namespace {

/// A point that the map goes through.
struct Knot {
  Ticks at;
  double quarters = 0;
  double seconds = 0;  ///< on the clock
};

std::vector<Knot> knotsOf(const TempoAnchors& anchors, int rate) {
  std::vector<Knot> out;
  for (const auto& a : anchors)
    out.push_back(
        {a.at, static_cast<double>(a.at.value) / kTicksPerQuarter, static_cast<double>(a.frame.value) / rate});
  return out;
}

/// Brings each stretch's tempo nearer to those around it; the anchors keep their mean place.
void smooth(std::vector<Knot>& knots, double amount) {
  constexpr double kWide = 2;  // stretches, of a Gaussian
  if (amount <= 0 || knots.size() < 3) return;
  const auto n = knots.size() - 1;
  std::vector<double> period(n);
  for (std::size_t i = 0; i < n; ++i)
    period[i] = (knots[i + 1].seconds - knots[i].seconds) / (knots[i + 1].quarters - knots[i].quarters);
  std::vector<double> seconds{knots.front().seconds};
  for (std::size_t i = 0; i < n; ++i) {
    double all = 0;
    double sum = 0;
    for (std::size_t k = 0; k < n; ++k) {
      const double d = static_cast<double>(k) - static_cast<double>(i);
      const double quarters = knots[k + 1].quarters - knots[k].quarters;
      const double w = quarters * std::exp(-0.5 * d * d / (kWide * kWide));
      all += w;
      sum += w * period[k];
    }
    const double p = period[i] + amount * (sum / all - period[i]);
    seconds.push_back(seconds.back() + p * (knots[i + 1].quarters - knots[i].quarters));
  }
  double off = 0;
  for (std::size_t i = 0; i < knots.size(); ++i) off += knots[i].seconds - seconds[i];
  off /= static_cast<double>(knots.size());
  for (std::size_t i = 0; i < knots.size(); ++i) knots[i].seconds = seconds[i] + off;
}

/// Few of the knots, so that straight lines between them pass every other one within `within` seconds: each line goes
/// on for as long as some slope still serves all it passes.
std::vector<Knot> fewer(const std::vector<Knot>& knots, double within) {
  if (within <= 0 || knots.size() < 3) return knots;
  std::vector<Knot> out{knots.front()};
  std::size_t k = 1;
  while (k < knots.size()) {
    const auto from = out.back();
    double low = 0;
    double high = 1e9;
    auto last = k;
    double slope = 0;
    for (auto i = k; i < knots.size(); ++i) {
      const double dx = knots[i].quarters - from.quarters;
      const double lowest = std::max(low, (knots[i].seconds - within - from.seconds) / dx);
      const double highest = std::min(high, (knots[i].seconds + within - from.seconds) / dx);
      if (lowest > highest) break;
      low = lowest;
      high = highest;
      last = i;
      slope = std::clamp((knots[i].seconds - from.seconds) / dx, low, high);
    }
    auto to = knots[last];
    to.seconds = from.seconds + slope * (to.quarters - from.quarters);
    out.push_back(to);
    k = last + 1;
  }
  return out;
}

/// Seconds that `quarters` take while the tempo goes from a to b in a straight line of musical time.
double rampSeconds(double quarters, double a, double b) {
  return std::abs(b - a) < 1e-9 * a ? 60 * quarters / a : 60 * quarters * std::log(b / a) / (b - a);
}

/// The tempo half-way between two knots with which the stretch takes as long as it should.
double middleTempo(double quarters, double seconds, double a, double b) {
  double low = 1;
  double high = 100'000;
  for (int i = 0; i < 200; ++i) {
    const double m = std::sqrt(low * high);
    const double takes = rampSeconds(quarters / 2, a, m) + rampSeconds(quarters / 2, m, b);
    (takes > seconds ? low : high) = m;
  }
  return std::sqrt(low * high);
}

std::vector<TempoEvent> ramps(const std::vector<Knot>& knots, const std::vector<double>& bpm) {
  std::vector<TempoEvent> out;
  const auto at = [&](std::size_t i) {
    if (i == 0) return bpm.front();
    if (i == bpm.size()) return bpm.back();
    return 0.5 * (bpm[i - 1] + bpm[i]);
  };
  for (std::size_t i = 0; i < bpm.size(); ++i) {
    const auto middle = knots[i].at + (knots[i + 1].at - knots[i].at) / 2;
    out.push_back({knots[i].at, at(i), true});
    const double first = static_cast<double>((middle - knots[i].at).value) / kTicksPerQuarter;
    out.push_back({middle, middleTempo(2 * first, knots[i + 1].seconds - knots[i].seconds, at(i), at(i + 1)), true});
  }
  out.push_back({knots.back().at, at(bpm.size()), false});
  return out;
}

}  // namespace

Result<TempoMap> mapThrough(const TempoAnchors& anchors, const AnchorSettings& settings, const TempoMap& around) {
  if (anchors.empty()) return around;
  for (std::size_t i = 1; i < anchors.size(); ++i)
    if (anchors[i].at <= anchors[i - 1].at || anchors[i].frame <= anchors[i - 1].frame)
      return fail(ErrorKind::refused, "Anchors must follow each other: bar " +
                                          std::to_string(around.barAt(anchors[i].at) + 1) +
                                          " would lie before the anchor before it.");
  const auto& first = anchors.front();
  if (anchors.size() == 1)
    return TempoMap::make(around.rate(), around.origin() + (first.frame - around.toFrames(first.at)), around.tempos(),
                          around.meters());
  auto knots = knotsOf(anchors, around.rate());
  smooth(knots, settings.smooth / 100);
  knots = fewer(knots, settings.withinMs / 1000);
  std::vector<double> bpm;
  for (std::size_t i = 0; i + 1 < knots.size(); ++i) {
    bpm.push_back(60 * (knots[i + 1].quarters - knots[i].quarters) / (knots[i + 1].seconds - knots[i].seconds));
    if (!kBpmRange.accepts(bpm.back()))
      return fail(ErrorKind::refused, "From bar " + std::to_string(around.barAt(knots[i].at) + 1) + " to bar " +
                                          std::to_string(around.barAt(knots[i + 1].at) + 1) + " the tempo would be " +
                                          fixed(bpm.back(), 1) + " BPM. It may be 10 to 999.");
  }
  std::vector<TempoEvent> events;
  if (settings.ramps) events = ramps(knots, bpm);
  const bool jumps =
      !settings.ramps || std::any_of(events.begin(), events.end(), [](auto& e) { return !kBpmRange.accepts(e.bpm); });
  if (jumps) {
    events.clear();
    for (std::size_t i = 0; i < bpm.size(); ++i) events.push_back({knots[i].at, bpm[i], false});
  }
  auto made = TempoMap::make(around.rate(), Frames{}, events, around.meters());
  if (!made) return made;
  const double origin = knots.front().seconds - made->secondsFromOrigin(knots.front().at);
  return TempoMap::make(around.rate(), Frames{std::llround(origin * around.rate())}, std::move(events),
                        around.meters());
}

}  // namespace ochron

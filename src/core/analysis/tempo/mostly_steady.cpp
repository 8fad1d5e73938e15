#include "analysis/tempo/mostly_steady.h"

#include <algorithm>
#include <cmath>

#include "analysis/tempo/steady_line.h"
#include "base/median.h"

namespace ochron {
namespace {

constexpr std::size_t kFewestBeats = 24;
constexpr std::size_t kSpan = 8;          // beats that a local tempo is taken over
constexpr double kEven = 0.006;           // of it, from one to the next
constexpr double kOnLine = 0.03;          // s
constexpr double kMostOnLine = 0.75;      // of the beats
constexpr double kNarrowAs = 0.004;       // s, of the Cauchy weights
constexpr std::size_t kBeatsFurther = 8;  // beats more on either side, each time the line is taken further
constexpr std::size_t kShortestAway = 2;

struct Line {
  double start = 0;
  double step = 0;

  /// Beats that were taken for the ones half way between lie on it, too.
  double placeOf(double beat) const { return std::round(2 * (beat - start) / step) / 2; }
  double off(double beat) const { return beat - start - placeOf(beat) * step; }
};

/// The first of the longest run of beats whose local tempi are alike, and its end.
std::pair<std::size_t, std::size_t> longestEven(const std::vector<double>& beats) {
  std::size_t bestFrom = 0;
  std::size_t bestTo = 0;
  for (std::size_t from = 0; from + kSpan < beats.size();) {
    auto to = from + kSpan;
    const auto stepAt = [&](std::size_t end) { return (beats[end] - beats[end - kSpan]) / static_cast<double>(kSpan); };
    const double first = stepAt(to);
    while (to + 1 < beats.size() && std::abs(stepAt(to + 1) / first - 1) < kEven) ++to;
    if (to - from > bestTo - bestFrom) {
      bestFrom = from;
      bestTo = to;
    }
    from = std::max(from + 1, to - kSpan + 1);
  }
  return {bestFrom, bestTo};
}

/// Fits the line to the beats [from, to) that lie on it, each at the whole number of steps that is nearest.
void fit(Line& line, const std::vector<double>& beats, std::size_t from, std::size_t to) {
  double w = 0, x = 0, y = 0, xx = 0, xy = 0;
  for (auto i = from; i < to; ++i) {
    const double off = line.off(beats[i]);
    if (std::abs(off) > kOnLine) continue;
    const double weight = 1 / (1 + off * off / (kNarrowAs * kNarrowAs));
    const double place = line.placeOf(beats[i]);
    w += weight;
    x += weight * place;
    y += weight * beats[i];
    xx += weight * place * place;
    xy += weight * place * beats[i];
  }
  const double bottom = w * xx - x * x;
  if (bottom <= 0) return;
  line.step = (w * xy - x * y) / bottom;
  line.start = (y - line.step * x) / w;
}

}  // namespace

std::vector<double> MostlySteady::beats() const {
  std::vector<double> out;
  for (std::size_t i = 0; i < count; ++i) out.push_back(start + static_cast<double>(i) * step);
  return out;
}

std::optional<MostlySteady> mostlySteady(const std::vector<double>& beats) {
  if (beats.size() < kFewestBeats) return {};
  auto [from, to] = longestEven(beats);
  if (to - from < kFewestBeats / 2) return {};
  Line line{beats[from], secondsABeat(beats, from, to + 1)};
  for (int round = 0; round < 4; ++round) fit(line, beats, from, to + 1);
  while (from > 0 || to + 1 < beats.size()) {
    from -= std::min(from, kBeatsFurther);
    to = std::min(beats.size() - 1, to + kBeatsFurther);
    fit(line, beats, from, to + 1);
  }
  for (int round = 0; round < 4; ++round) fit(line, beats, 0, beats.size());
  const auto on = std::count_if(beats.begin(), beats.end(), [&](double b) { return std::abs(line.off(b)) <= kOnLine; });
  if (static_cast<double>(on) < kMostOnLine * static_cast<double>(beats.size())) return {};
  MostlySteady out;
  out.step = line.step;
  out.start = line.start + std::round((beats.front() - line.start) / line.step) * line.step;
  out.count = static_cast<std::size_t>(std::llround((beats.back() - out.start) / line.step)) + 1;
  // Most beats say which of the two is the beat.
  const auto whole = std::count_if(beats.begin(), beats.end(), [&](double b) {
    const double place = line.placeOf(b);
    return place == std::round(place);
  });
  if (2 * whole < std::ssize(beats)) {
    line.start += line.step / 2;
    out.start += line.step / 2;
  }
  for (std::size_t i = 0; i < beats.size();) {
    auto end = i;
    while (end < beats.size() &&
           std::abs(beats[end] - line.start - std::round((beats[end] - line.start) / line.step) * line.step) > kOnLine)
      ++end;
    if (end - i >= kShortestAway) out.away.push_back({beats[i], beats[end - 1]});
    i = std::max(end, i + 1);
  }
  return out;
}

}  // namespace ochron

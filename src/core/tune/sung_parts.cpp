#include "tune/sung_parts.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "analysis/pitch_course.h"
#include "base/median.h"

namespace ochron {
namespace {

constexpr double kLeastVibrato = 6;  // cents

/// Rate by the crossings of zero, extent by the effective value.
void describeVibrato(SungParts& parts) {
  double power = 0;
  int crossings = 0;
  std::size_t firstCrossing = 0;
  std::size_t lastCrossing = 0;
  for (std::size_t i = 0; i < parts.vibrato.size(); ++i) {
    power += parts.vibrato[i] * parts.vibrato[i];
    if (i == 0 || (parts.vibrato[i] >= 0) == (parts.vibrato[i - 1] >= 0)) continue;
    if (crossings++ == 0) firstCrossing = i;
    lastCrossing = i;
  }
  if (parts.vibrato.empty() || crossings < 3) return;
  const double rate = 0.5 * (crossings - 1) / (static_cast<double>(lastCrossing - firstCrossing) * PitchTrack::kHop);
  const double extent =
      std::numbers::sqrt2 * std::sqrt(power / static_cast<double>(parts.vibrato.size())) / (1 - movementKept(rate));
  if (extent < kLeastVibrato || rate < 3 || rate > 10) return;
  parts.vibratoCents = extent;
  parts.vibratoHertz = rate;
}

}  // namespace

SungParts partsOf(const PitchTrack& track, const SungNote& note) {
  SungParts out;
  const auto begin = static_cast<std::size_t>(std::max(0.0, std::ceil(note.start / PitchTrack::kHop - 1e-6)));
  const auto end =
      std::min(track.values.size(), static_cast<std::size_t>(std::ceil(note.end / PitchTrack::kHop - 1e-6)));
  out.centre = centsOf(note.hertz);
  out.first = std::min(begin, end);
  out.last = end;
  if (begin >= end) return out;
  const auto course = pitchCourse(track, begin, end);
  const auto [in, until] = settledPart(course, out.centre);
  out.first = begin + in;
  out.last = begin + until;
  const std::vector<double> settled(course.begin() + static_cast<std::ptrdiff_t>(in),
                                    course.begin() + static_cast<std::ptrdiff_t>(until));
  out.wander = withoutVibrato(settled);
  out.centre = medianOf(out.wander);
  for (std::size_t i = 0; i < settled.size(); ++i) {
    out.vibrato.push_back(settled[i] - out.wander[i]);
    out.wander[i] -= out.centre;
  }
  describeVibrato(out);
  return out;
}

}  // namespace ochron

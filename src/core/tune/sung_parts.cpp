#include "tune/sung_parts.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>
#include <utility>

#include "analysis/pitch_course.h"
#include "base/median.h"

namespace ochron {
namespace {

constexpr double kLeastVibrato = 6;  // cents

struct Vibrato {
  double hertz = 0;
  double cents = 0;  ///< extent to either side
};

/// Rate by the crossings of zero, extent by the effective value. `kept`: how much of a movement so fast the course is
/// without. None when it is not one of a voice or a player.
Vibrato vibratoIn(const std::vector<double>& course, const std::function<double(double hertz)>& kept) {
  double power = 0;
  int crossings = 0;
  std::size_t firstCrossing = 0;
  std::size_t lastCrossing = 0;
  for (std::size_t i = 0; i < course.size(); ++i) {
    power += course[i] * course[i];
    if (i == 0 || (course[i] >= 0) == (course[i - 1] >= 0)) continue;
    if (crossings++ == 0) firstCrossing = i;
    lastCrossing = i;
  }
  if (course.empty() || crossings < 3) return {};
  const double rate = 0.5 * (crossings - 1) / (static_cast<double>(lastCrossing - firstCrossing) * PitchTrack::kHop);
  const double extent = std::numbers::sqrt2 * std::sqrt(power / static_cast<double>(course.size())) / (1 - kept(rate));
  return extent < kLeastVibrato || rate < 3 || rate > 10 ? Vibrato{} : Vibrato{rate, extent};
}

std::vector<double> less(const std::vector<double>& all, const std::vector<double>& part) {
  std::vector<double> out;
  out.reserve(all.size());
  for (std::size_t i = 0; i < all.size(); ++i) out.push_back(all[i] - part[i]);
  return out;
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
  auto vibrato = vibratoIn(less(settled, out.wander), movementKept);
  // Its rate is nearer to the truth once no line bends it.
  for (int again = 0; again < 2 && vibrato.hertz > 0; ++again) {
    auto wander = withoutVibrato(settled, vibrato.hertz);
    const auto nearer = vibratoIn(less(settled, wander), [](double) { return 0.0; });
    if (nearer.hertz <= 0) break;
    out.wander = std::move(wander);
    vibrato = nearer;
  }
  out.vibrato = less(settled, out.wander);
  out.vibratoHertz = vibrato.hertz;
  out.vibratoCents = vibrato.cents;
  out.centre = medianOf(out.wander);
  for (auto& w : out.wander) w -= out.centre;
  return out;
}

}  // namespace ochron

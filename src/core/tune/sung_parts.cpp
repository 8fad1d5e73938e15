#include "tune/sung_parts.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <functional>
#include <numbers>
#include <utility>

#include "analysis/pitch/pitch_course.h"
#include "base/median.h"
#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kLeastVibrato = 6;  // cents
constexpr double kSlowest = 3;       // Hz
constexpr double kFastest = 10;
constexpr double kRateStep = 0.05;
constexpr double kAlikeTurns = 0.2;  // by which two rates differ over all of a movement and are as strong

struct Vibrato {
  double hertz = 0;
  double cents = 0;  ///< extent to either side
};

/// The rate at which a movement is strongest, Hz, under a Hann window; what is strong counts, not what is there for
/// long: a vibrato that comes late has its own rate, whatever moves before it. `share`: how much of a movement at a
/// rate the course still has.
double strongestRate(const std::vector<double>& course, const std::function<double(double hertz)>& share) {
  std::vector<double> windowed(course);
  for (std::size_t i = 0; i < course.size(); ++i)
    windowed[i] *= hannAt((static_cast<double>(i) + 0.5) / static_cast<double>(course.size()));
  const auto strength = [&](double hertz) {
    const auto step = std::polar(1.0, -2 * std::numbers::pi * hertz * PitchTrack::kHop);
    std::complex<double> turned = 1;
    std::complex<double> sum;
    for (const double w : windowed) {
      sum += w * turned;
      turned = {turned.real() * step.real() - turned.imag() * step.imag(),
                turned.real() * step.imag() + turned.imag() * step.real()};
    }
    return std::norm(sum) / (share(hertz) * share(hertz));
  };
  // Coarsely, as far as its length lets neighbouring rates be alike, then in fine steps about the best.
  const double seconds = static_cast<double>(course.size()) * PitchTrack::kHop;
  const auto coarse = std::clamp(static_cast<int>(kAlikeTurns / seconds / kRateStep), 1, 6);
  const auto last = static_cast<int>(std::lround((kFastest - kSlowest) / kRateStep));
  const auto rateAt = [](int i) { return kSlowest + i * kRateStep; };
  int best = 0;
  double most = 0;
  const auto consider = [&](int i) {
    if (const double power = strength(rateAt(i)); power > most) most = power, best = i;
  };
  for (int i = 0; i <= last; i += coarse) consider(i);
  for (int i = std::max(0, best - coarse + 1), to = std::min(last, best + coarse - 1); coarse > 1 && i <= to; ++i)
    consider(i);
  return rateAt(best);
}

/// The vibrato of a course that has no wander: extent by the effective value. `share` as above. None when it is not one
/// of a voice or a player, or too short to be one.
Vibrato vibratoIn(const std::vector<double>& course, const std::function<double(double hertz)>& share) {
  double power = 0;
  int crossings = 0;
  for (std::size_t i = 0; i < course.size(); ++i) {
    power += course[i] * course[i];
    if (i > 0 && (course[i] >= 0) != (course[i - 1] >= 0)) ++crossings;
  }
  if (course.empty() || crossings < 3) return {};
  const double rate = strongestRate(course, share);
  const double extent = std::numbers::sqrt2 * std::sqrt(power / static_cast<double>(course.size())) / share(rate);
  return extent < kLeastVibrato || rate <= kSlowest || rate >= kFastest ? Vibrato{} : Vibrato{rate, extent};
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
  auto vibrato = vibratoIn(less(settled, out.wander), [](double hertz) { return 1 - movementKept(hertz); });
  // Its rate is nearer to the truth once no line bends it.
  for (int again = 0; again < 2 && vibrato.hertz > 0; ++again) {
    auto wander = withoutVibrato(settled, vibrato.hertz);
    const auto nearer = vibratoIn(less(settled, wander), [](double) { return 1.0; });
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

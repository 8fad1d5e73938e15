#include "analysis/pitch/periodicity.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "analysis/levels/mic_level.h"
#include "base/hop.h"
#include "base/numbers.h"
#include "dsp/dot.h"
#include "dsp/peak.h"

namespace ochron {
namespace {

constexpr double kPeriodRate = 24'000;
constexpr double kPeriodLowest = 50;
constexpr double kPeriodHighest = 3500;
constexpr double kPeriodSlack = 0.03;  // of a period
constexpr double kPeriodLeast = 0.01;  // of each stretch
constexpr double kPeriodLevel = 0.02;
constexpr double kNoPower = 1e-14;
constexpr double kNoiseAlike = 0.4;       // likeness of what is none of the pitch
constexpr std::size_t kEnoughNoise = 20;  // values, 0.1 s
constexpr double kNoiseShare = 0.3;       // of its levels that are no louder than the floor
constexpr double kTopShare = 0.99;
constexpr double kFloorLowest = 55;  // dB under the top
constexpr double kFloorHighest = 20;

/// A second-order Butterworth section run over a sound (Robert Bristow-Johnson's cookbook).
void filter(std::vector<float>& x, double hertz, double rate, bool high) {
  const double w = 2 * std::numbers::pi * std::min(hertz, 0.45 * rate) / rate;
  const double alpha = std::sin(w) / std::numbers::sqrt2;
  const double c = std::cos(w);
  const double a0 = 1 + alpha;
  const double edge = (high ? 1 + c : 1 - c) / 2 / a0;
  const double b1 = (high ? -2 : 2) * edge;
  const double a1 = -2 * c / a0;
  const double a2 = (1 - alpha) / a0;
  double s1 = 0;
  double s2 = 0;
  for (auto& v : x) {
    const double in = v;
    const double y = edge * in + s1;
    s1 = b1 * in - a1 * y + s2;
    s2 = edge * in - a2 * y;
    v = static_cast<float>(y);
  }
}

}  // namespace

Periodicity::Periodicity(std::vector<float> sound, double rate)
    : sound_(std::move(sound)), squares_(sound_.size() + 1, 0.0), rate_(rate) {
  for (std::size_t i = 0; i < sound_.size(); ++i)
    squares_[i + 1] = squares_[i] + static_cast<double>(sound_[i]) * sound_[i];
}

Periodicity::Periodicity(std::span<const float> samples, int rate) : rate_(rate) {
  std::vector<float> band(samples.begin(), samples.end());
  filter(band, kPeriodLowest, rate, true);
  filter(band, kPeriodHighest, rate, false);
  filter(band, kPeriodHighest, rate, false);
  const auto every = std::max<std::size_t>(1, static_cast<std::size_t>(rate / kPeriodRate));
  std::vector<float> fewer;
  fewer.reserve(band.size() / every + 1);
  for (std::size_t i = 0; i < band.size(); i += every) fewer.push_back(band[i]);
  *this = Periodicity(std::move(fewer), static_cast<double>(rate) / static_cast<double>(every));
}

Periodicity Periodicity::derivative() const {
  auto steps = sound_;
  float before = 0;
  for (auto& v : steps) before = std::exchange(v, v - before);
  return {std::move(steps), rate_};
}

std::int64_t Periodicity::frameOf(std::size_t value) const {
  return std::llround(PitchTrack::secondsAt(value) * rate_);
}

double Periodicity::likeness(std::size_t value, double hertz) const {
  if (hertz <= 0) return 0;
  const double period = rate_ / hertz;
  const auto low = static_cast<std::int64_t>(std::floor(period * (1 - kPeriodSlack)));
  const auto high = static_cast<std::int64_t>(std::ceil(period * (1 + kPeriodSlack)));
  const auto size = static_cast<std::int64_t>(std::max(2 * period, kPeriodLeast * rate_));
  const auto centre = frameOf(value);
  std::vector<double> alike;
  for (auto lag = std::max<std::int64_t>(1, low); lag <= high; ++lag) {
    const auto first = centre - (size + lag) / 2;
    alike.push_back(0);
    if (first < 0 || first + lag + size > std::ssize(sound_)) continue;
    const auto a = static_cast<std::size_t>(first);
    const auto b = a + static_cast<std::size_t>(lag);
    const auto n = static_cast<std::size_t>(size);
    const double powers = squares_[a + n] - squares_[a] + squares_[b + n] - squares_[b];
    if (powers <= kNoPower * static_cast<double>(n)) continue;
    alike.back() = 2 * dot(std::span(sound_).subspan(a, n), std::span(sound_).subspan(b, n)) / powers;
  }
  const auto k = static_cast<std::size_t>(std::max_element(alike.begin(), alike.end()) - alike.begin());
  if (k == 0 || k + 1 >= alike.size()) return alike.empty() ? 0 : std::max(0.0, alike[k]);
  // A period is no whole number of frames.
  return std::clamp(peakOf(alike[k - 1], alike[k], alike[k + 1]).height, 0.0, 1.0);
}

double Periodicity::level(std::size_t value) const {
  const auto half = static_cast<std::int64_t>(kPeriodLevel / 2 * rate_);
  const auto centre = frameOf(value);
  const auto from = static_cast<std::size_t>(std::clamp<std::int64_t>(centre - half, 0, std::ssize(sound_)));
  const auto to = static_cast<std::size_t>(std::clamp<std::int64_t>(centre + half, 0, std::ssize(sound_)));
  return decibelsOf((squares_[to] - squares_[from]) / static_cast<double>(2 * half) + kNoPower);
}

double HeardPeriods::overNoise(std::size_t value, double leastOverDb) const {
  const double over = std::max(level[value] - floor, leastOverDb);
  return std::min(1.0, likeness[value] / (1 - std::pow(10, -over / 10)));
}

HeardPeriods heardPeriods(const Periodicity& sound, const std::vector<PitchTrack::Value>& values) {
  HeardPeriods out;
  std::vector<double> noise;
  for (std::size_t t = 0; t < values.size(); ++t) {
    out.likeness.push_back(sound.likeness(t, values[t].hertz));
    out.level.push_back(sound.level(t));
    if (out.likeness.back() < kNoiseAlike) noise.push_back(out.level.back());
  }
  out.top = percentile(out.level, kTopShare);
  // The quietest of all would be a held note where nothing else is.
  out.floor = noise.size() < kEnoughNoise ? out.top - kFloorLowest
                                          : std::clamp(percentile(std::move(noise), kNoiseShare),
                                                       out.top - kFloorLowest, out.top - kFloorHighest);
  return out;
}

}  // namespace ochron

#include "analysis/pitch/one_line.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>

#include "analysis/pitch/periodicity.h"
#include "dsp/dot.h"

namespace ochron {
namespace {

// On made voices and lines, clean and treated, real voices, speech, single notes, mixes, drum mics, loops and chords
// (docs/figures.md).
constexpr double kLeastOneShare = 0.42;
constexpr double kMostBeside = 0.25;
constexpr double kMostFaintBeside = 0.40;
constexpr double kCountsOverDb = 8;    // over the floor
constexpr double kCountsUnderDb = 25;  // under the top
constexpr double kOneAlike = 0.7;
constexpr double kStepsAlike = 0.5;  // of the derivative
constexpr double kShareFloorDb = 3;
constexpr std::size_t kLookEvery = 6;  // values, 30 ms, from one look beside the harmonics to the next
constexpr double kLookSeconds = 0.04;
constexpr double kOfOnePeriod = 0.03;
constexpr double kBesideShare = 0.10;
constexpr double kBesideTone = 0.6;
constexpr double kFaint = 0.05;
constexpr double kFaintTone = 0.7;
constexpr double kShortestLag = 0.001;  // s
constexpr double kLongestLag = 0.0167;
constexpr double kOfPeriod = 0.08;
constexpr double kOfLag = 0.00015;          // s
constexpr double kLeastPartSeconds = 0.33;  // s
constexpr std::size_t kBridge = 20;         // values

bool counts(const HeardPeriods& h, std::size_t t) {
  return h.level[t] > std::max(h.floor + kCountsOverDb, h.top - kCountsUnderDb);
}

/// The share of what counts, by amplitude, that is more alike than `least`.
double aloneShare(const HeardPeriods& h, double least) {
  double all = 0;
  double alone = 0;
  for (std::size_t t = 0; t < h.level.size(); ++t) {
    if (!counts(h, t)) continue;
    const double weight = std::pow(10, h.level[t] / 20);
    all += weight;
    if (h.overNoise(t, kShareFloorDb) > least) alone += weight;
  }
  return all > 0 ? alone / all : 0;
}

/// Solves a symmetric 3 x 3 system by Cramer's rule; zeros where it has no one solution.
std::array<double, 3> solved(const std::array<std::array<double, 3>, 3>& m, const std::array<double, 3>& y) {
  const auto det = [](const std::array<std::array<double, 3>, 3>& a) {
    return a[0][0] * (a[1][1] * a[2][2] - a[1][2] * a[2][1]) - a[0][1] * (a[1][0] * a[2][2] - a[1][2] * a[2][0]) +
           a[0][2] * (a[1][0] * a[2][1] - a[1][1] * a[2][0]);
  };
  const double all = det(m);
  std::array<double, 3> out{};
  if (std::abs(all) < 1e-30) return out;
  for (std::size_t c = 0; c < 3; ++c) {
    auto with = m;
    for (std::size_t r = 0; r < 3; ++r) with[r][c] = y[r];
    out[c] = det(with) / all;
  }
  return out;
}

/// What is left of a moment once what goes on from period to period is taken off.
struct Left {
  double share = 0;  ///< of its power
  double tone = 0;   ///< how periodic that is itself, apart from multiples of the period
};

Left leftBeside(const Periodicity& steps, std::size_t value, double hertz) {
  const auto x = steps.sound();
  const auto size = static_cast<std::int64_t>(kLookSeconds * steps.rate());
  const double period = steps.rate() / hertz;
  const auto first = steps.frameOf(value) - size / 2;
  const auto reach = static_cast<std::int64_t>(std::ceil(period * (1 + kOfOnePeriod))) + 1;
  if (first < reach || first + size > std::ssize(x)) return {};
  const auto part = [&](std::int64_t lag) {
    return x.subspan(static_cast<std::size_t>(first - lag), static_cast<std::size_t>(size));
  };
  const double all = dot(part(0), part(0));
  if (all <= 0) return {};
  double least = all;
  std::int64_t bestLag = 0;
  std::array<double, 3> bestTaps{};
  for (auto lag = static_cast<std::int64_t>(std::floor(period * (1 - kOfOnePeriod)));
       lag <= static_cast<std::int64_t>(std::ceil(period * (1 + kOfOnePeriod))); ++lag) {
    if (lag < 2) continue;
    std::array<std::array<double, 3>, 3> m{};
    std::array<double, 3> y{};
    for (std::size_t i = 0; i < 3; ++i) {
      const auto a = part(lag + static_cast<std::int64_t>(i) - 1);
      for (std::size_t k = i; k < 3; ++k)
        m[i][k] = m[k][i] = dot(a, part(lag + static_cast<std::int64_t>(k) - 1)) + (i == k ? 1e-9 * all : 0);
      y[i] = dot(a, part(0));
    }
    const auto taps = solved(m, y);
    const double left = all - taps[0] * y[0] - taps[1] * y[1] - taps[2] * y[2];
    if (left >= least) continue;
    least = left;
    bestLag = lag;
    bestTaps = taps;
  }
  if (bestLag == 0) return {1, 0};
  Left out{std::max(0.0, least) / all, 0};
  if (out.share <= kFaint) return out;
  std::vector<float> rest(static_cast<std::size_t>(size));
  const auto whole = part(0);
  for (std::size_t i = 0; i < rest.size(); ++i) {
    double known = 0;
    for (std::size_t k = 0; k < 3; ++k) known += bestTaps[k] * part(bestLag + static_cast<std::int64_t>(k) - 1)[i];
    rest[i] = static_cast<float>(whole[i] - known);
  }
  std::vector<double> squares(rest.size() + 1, 0.0);
  for (std::size_t i = 0; i < rest.size(); ++i) squares[i + 1] = squares[i] + static_cast<double>(rest[i]) * rest[i];
  const double beside = std::max(kOfPeriod * period, kOfLag * steps.rate());
  for (auto lag = static_cast<std::size_t>(kShortestLag * steps.rate());
       lag <= static_cast<std::size_t>(kLongestLag * steps.rate()); ++lag) {
    const double multiple = std::round(static_cast<double>(lag) / period);
    if (multiple >= 1 && std::abs(static_cast<double>(lag) - multiple * period) < beside) continue;
    const auto n = rest.size() - lag;
    const double power = std::sqrt(squares[n] * (squares.back() - squares[lag])) + 1e-24;
    out.tone = std::max(out.tone, dot(std::span(rest).first(n), std::span(rest).subspan(lag)) / power);
  }
  return out;
}

/// The stretches of values that count and are no line, short gaps between them bridged.
std::vector<OneLine::Part> partsOf(const std::vector<bool>& none) {
  std::vector<OneLine::Part> out;
  for (std::size_t t = 0; t < none.size(); ++t) {
    if (!none[t]) continue;
    auto end = t + 1;
    for (auto i = end; i < std::min(none.size(), end + kBridge); ++i)
      if (none[i]) end = i + 1;
    if (PitchTrack::secondsAt(end - t) >= kLeastPartSeconds)
      out.push_back({PitchTrack::secondsAt(t), PitchTrack::secondsAt(end)});
    t = end;
  }
  return out;
}

}  // namespace

bool OneLine::besideTooMuch() const { return beside > kMostBeside || faintBeside > kMostFaintBeside; }

bool OneLine::one() const { return share >= kLeastOneShare && !besideTooMuch(); }

OneLine oneLine(const PitchTrack& track, std::span<const float> samples, int rate) {
  OneLine out;
  const Periodicity sound(samples, rate);
  const auto heard = heardPeriods(sound, track.values);
  const auto steps = sound.derivative();
  const auto heardSteps = heardPeriods(steps, track.values);
  out.share = std::min(aloneShare(heard, kOneAlike), aloneShare(heardSteps, kStepsAlike));
  out.noiseDb = heard.top - heard.floor;
  std::vector<bool> none(track.values.size(), false);
  for (std::size_t t = 0; t < none.size(); ++t)
    none[t] = counts(heard, t) && heard.overNoise(t, kShareFloorDb) <= kOneAlike;
  double looked = 0;
  double beside = 0;
  double faint = 0;
  for (std::size_t t = 0; t < track.values.size(); t += kLookEvery) {
    if (!counts(heard, t) || track.values[t].hertz <= 0) continue;
    const auto left = leftBeside(steps, t, track.values[t].hertz);
    const double weight = std::pow(10, heard.level[t] / 20);
    looked += weight;
    if (left.share > kFaint && left.tone > kFaintTone) faint += weight;
    if (left.share > kBesideShare && left.tone > kBesideTone) {
      beside += weight;
      none[t] = true;
    }
  }
  if (looked > 0) {
    out.beside = beside / looked;
    out.faintBeside = faint / looked;
  }
  out.elsewhere = partsOf(none);
  return out;
}

}  // namespace ochron

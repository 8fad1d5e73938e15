#include "analysis/soft_strokes.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "analysis/flux.h"
#include "analysis/localise.h"
#include "analysis/onset_kinds.h"
#include "analysis/soft_onsets.h"

namespace ochron {
namespace {

constexpr double kSmallestFlux = 0.05;  // mean rise a band (natural log units) of the weakest candidate
constexpr double kAboveMean = 0.04;     // and above the mean around it
constexpr double kMeanBeforeSeconds = 0.10;
constexpr double kMeanAfterSeconds = 0.05;
constexpr double kPeakReachSeconds = 0.0075;  // a candidate is the highest within this on either side
constexpr double kShadowSeconds = 0.25;
constexpr double kShadowDb = -12;      // under a stroke right after it
constexpr double kShadowFallDb = 100;  // a second
constexpr double kLeastFresh = 0.15;   // of the spectrum: what a tone that goes on may show
constexpr double kFreshReach = 0.15;
constexpr std::int64_t kSwellPeakMs = 9;
constexpr std::int64_t kSwellReachMs = 70;
constexpr float kSwellFrom = 0.4F;
constexpr float kSwellShare = 0.15F;
constexpr double kSoftSeconds = 0.035;
constexpr double kSoftFirstShare = 0.15;

/// A sharp attack seen by the flux.
struct Candidate {
  std::int64_t at = 0;
  double level = 0;
  double rise = 0;    // how much of it is new in the spectrum, 0 to 1
  double jump = 0;    // how much of it is new in the level, 0 to 1
  double masked = 1;  // marked down in the shadow of a louder stroke
};

/// Frames of the trace where the flux peaks above its surroundings.
std::vector<std::size_t> pickPeaks(const FluxTrace& trace, int rate) {
  const auto frames = [&](double seconds) { return static_cast<std::int64_t>(seconds * rate / trace.hop); };
  const auto n = std::ssize(trace.flux);
  std::vector<double> sum(static_cast<std::size_t>(n + 1), 0.0);
  std::partial_sum(trace.flux.begin(), trace.flux.end(), sum.begin() + 1, [](double a, double b) { return a + b; });
  std::vector<std::size_t> out;
  const auto reach = frames(kPeakReachSeconds);
  for (std::int64_t i = 0; i < n; ++i) {
    const float v = trace.flux[static_cast<std::size_t>(i)];
    if (v < kSmallestFlux) continue;
    const auto a = std::max<std::int64_t>(0, i - frames(kMeanBeforeSeconds));
    const auto b = std::min(n, i + frames(kMeanAfterSeconds));
    const double mean =
        (sum[static_cast<std::size_t>(b)] - sum[static_cast<std::size_t>(a)]) / static_cast<double>(b - a);
    if (v < mean + kAboveMean) continue;
    bool highest = true;
    for (auto k = std::max<std::int64_t>(0, i - reach); k <= std::min(n - 1, i + reach) && highest; ++k)
      highest = trace.flux[static_cast<std::size_t>(k)] < v || (trace.flux[static_cast<std::size_t>(k)] == v && k >= i);
    if (highest) out.push_back(static_cast<std::size_t>(i));
  }
  return out;
}

/// 0 for the swinging of what sounds already, 1 for a stroke out of nothing.
double novelty(const Candidate& c) { return std::clamp((0.6 * c.rise + 0.4 * c.jump - 0.25) / 0.35, 0.0, 1.0); }

/// Marks down what lies in the shadow of a louder stroke of the same guide: rattles, beating shells, echoes.
void maskAfterStrokes(std::vector<Candidate>& candidates, int rate) {
  for (std::size_t i = 0; i < candidates.size(); ++i) {
    auto& c = candidates[i];
    double shadow = 0;
    for (std::size_t k = i; k-- > 0;) {
      const double seconds = static_cast<double>(c.at - candidates[k].at) / rate;
      if (seconds > kShadowSeconds) break;
      shadow = std::max(shadow, candidates[k].level * novelty(candidates[k]) *
                                    std::pow(10.0, (kShadowDb - kShadowFallDb * seconds) / 20));
    }
    if (shadow > 0) c.masked = std::min(1.0, std::pow(c.level / shadow, 2));
  }
}

/// Where a swell that is steepest near `at` (frames of the guide) begins: where the level last was within 15 % of the
/// lowest before it. `at` itself when the level hardly rises (a legato).
std::int64_t swellStart(const MicLevel& g, std::int64_t at, int rate) {
  const auto ms = at * 1000 / rate;
  const auto level = [&](std::int64_t i) {  // over half a period of a low tone
    float peak = 0;
    for (auto k = std::max<std::int64_t>(0, i - kSwellPeakMs); k <= i && k < std::ssize(g.peaks); ++k)
      peak = std::max(peak, g.peaks[static_cast<std::size_t>(k)]);
    return peak;
  };
  float lowest = level(ms);
  float highest = lowest;
  auto from = ms;
  for (auto i = ms; i > std::max<std::int64_t>(0, ms - kSwellReachMs); --i)
    if (level(i) <= lowest) lowest = level(i), from = i;
  for (auto i = ms; i < ms + kSwellReachMs / 2; ++i) highest = std::max(highest, level(i));
  if (lowest > kSwellFrom * highest) return at;
  auto start = from;
  while (start < ms + kSwellReachMs / 2 && level(start) <= lowest + kSwellShare * (highest - lowest)) ++start;
  return start * rate / 1000;
}

std::vector<Candidate> sharpAttacks(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                    double from, double to) {
  const int rate = level.rate;
  std::vector<Candidate> out;
  const auto trace = traceFlux(samples, rate, 1.0 / level.reference, progress, from, to);
  if (progress.cancelled()) return out;
  std::int64_t earliest = 0;
  for (const auto n : pickPeaks(trace, rate)) {
    Candidate c;
    c.at = localiseAttack(samples, rate, static_cast<std::int64_t>(n) * trace.hop, earliest);
    if (!out.empty() && c.at - out.back().at < rate / 250) continue;  // the same attack seen twice
    c.level = level.at(c.at);
    c.jump = level.jumpAt(c.at);
    const auto frame = [&](double seconds) {
      return static_cast<std::size_t>(
          std::clamp<std::int64_t>(static_cast<std::int64_t>((static_cast<double>(c.at) + seconds * rate) / trace.hop),
                                   0, std::ssize(trace.bands) - 1));
    };
    c.rise = newShare(trace.bands[frame(-0.008)], trace.bands[frame(0.006)], trace.bands[frame(0.012)]);
    earliest = c.at + rate / 500;
    out.push_back(c);
  }
  maskAfterStrokes(out, rate);
  return out;
}

}  // namespace

std::vector<SoftStroke> findSoftStrokes(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                        double from, double to) {
  const int rate = level.rate;
  const auto sharps = sharpAttacks(samples, level, progress, from, to);
  std::vector<SoftStroke> out;
  if (progress.cancelled()) return out;
  const auto worth = [](const Candidate& c) { return c.level * novelty(c) * c.masked; };
  const auto near = static_cast<std::int64_t>(kSoftSeconds * rate);
  for (const auto& soft : findSoftOnsets(samples, rate, kLeastFresh)) {
    SoftStroke s;
    s.at = soft.at;
    bool sharply = false;
    double most = 0;
    for (const auto& c : sharps)
      if (std::abs(c.at - s.at) <= near) most = std::max(most, worth(c));
    for (const auto& c : sharps) {
      if (std::abs(c.at - s.at) > near || worth(c) < kSoftFirstShare * most || worth(c) <= 0) continue;
      s.at = c.at;
      sharply = true;
      break;
    }
    if (!sharply) s.at = swellStart(level, soft.at, rate);
    // What swells slowly is as loud as it is a little later.
    s.level = std::max(level.at(s.at), level.at(s.at + near));
    s.claim = s.level * std::clamp((soft.fresh - kLeastFresh) / kFreshReach, 0.0, 1.0);
    if (out.empty() || s.at - out.back().at > near / 2) out.push_back(s);
  }
  return out;
}

}  // namespace ochron

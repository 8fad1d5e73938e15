#include "analysis/hits/soft_strokes.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>

#include "analysis/hits/driven_strokes.h"
#include "analysis/hits/onset_kinds.h"
#include "analysis/hits/soft_onsets.h"
#include "analysis/levels/flux.h"
#include "analysis/levels/localise.h"
#include "analysis/pitch/cycle_break.h"

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
constexpr double kLeastFresh = 0.02;   // of the spectrum: what a tone that goes on may show
constexpr double kFreshReach = 0.16;
constexpr std::int64_t kSwellPeakMs = 9;
constexpr std::int64_t kSwellReachMs = 70;
constexpr std::int64_t kSwellAheadMs = 80;
constexpr float kSwellFrom = 0.4F;
constexpr float kSwellShare = 0.15F;
constexpr double kSoftSeconds = 0.035;
constexpr double kFirstShare = 0.3;     // of the strongest attack near an onset: strings of a chord are one
constexpr double kStruckNovelty = 0.5;  // of the attacks at clear onsets: more are plucked or hammered
constexpr double kClearOnset = 1.5;     // times what counts
constexpr double kStruckReachSeconds = 0.06;
constexpr double kSharpNovelty = 0.6;  // of an attack that places a bowed note
constexpr double kSharpReachSeconds = 0.02;
constexpr double kOneBreakSeconds = 0.015;  // between two sights of one
constexpr double kBowedLateSeconds = 0.02;  // most is new before a legato note is really there

/// A sharp attack seen by the flux.
struct Candidate {
  std::int64_t at = 0;
  double level = 0;
  double rise = 0;    // how much of it is new in the spectrum, 0 to 1
  double jump = 0;    // how much of it is new in the level, 0 to 1
  double masked = 1;  // marked down in the shadow of a louder stroke
};

/// Frames of the trace where the flux peaks above its surroundings.
std::vector<std::size_t> pickPeaks(const FluxTrace& trace) {
  const auto frames = [&](double seconds) { return trace.hop.steps(seconds); };
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
/// lowest before it. Nothing when the level hardly rises (a legato).
std::optional<std::int64_t> swellStart(const MicLevel& g, std::int64_t at) {
  const auto ms = at * 1000 / g.rate;
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
    if (level(i) < lowest) {
      lowest = level(i);
      from = i;
    }
  for (auto i = ms; i < ms + kSwellAheadMs; ++i) highest = std::max(highest, level(i));
  if (lowest > kSwellFrom * highest) return {};
  auto start = from;
  while (start < ms + kSwellAheadMs && level(start) <= lowest + kSwellShare * (highest - lowest)) ++start;
  return start * g.rate / 1000;
}

/// Above 0 it counts, -1 to 1: by how much more is new than counts (`fresh`), and, where the pitch stays, by how its
/// cycles break off (a logistic regression over lines with truth; docs/figures.md).
double sureness(double fresh, const std::optional<CycleBreak>& broken) {
  if (!broken) return std::clamp(fresh, -1.0, 1.0);
  constexpr double kOffset = -1.0;
  constexpr double kOfFresh = 5.5;
  constexpr double kOfUsual = 1.8;
  constexpr double kOfMost = 1.9;
  constexpr double kLeastTold = -0.45;  // less new tells no more
  constexpr double kSureScore = 5;
  const double score = kOffset + kOfFresh * std::clamp(fresh, kLeastTold, 1.0) + broken->weighed(kOfUsual, kOfMost);
  return std::clamp(score / kSureScore, -1.0, 1.0);
}

std::vector<Candidate> sharpAttacks(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                    double from, double to) {
  const int rate = level.rate;
  std::vector<Candidate> out;
  const auto trace = traceFlux(samples, rate, 1.0 / level.reference, progress, {from, to});
  if (progress.cancelled()) return out;
  std::int64_t earliest = 0;
  for (const auto n : pickPeaks(trace)) {
    Candidate c;
    c.at = localiseAttack(samples, rate, trace.hop.frame(static_cast<std::int64_t>(n)), earliest);
    if (!out.empty() && c.at - out.back().at < rate / 250) continue;  // the same attack seen twice
    c.level = level.at(c.at);
    c.jump = level.jumpAt(c.at);
    const auto frame = [&](double seconds) {
      return static_cast<std::size_t>(std::clamp<std::int64_t>(
          trace.hop.stepAt(c.at + static_cast<std::int64_t>(seconds * rate)), 0, std::ssize(trace.bands) - 1));
    };
    c.rise = newShare(trace.bands[frame(-0.008)], trace.bands[frame(0.006)], trace.bands[frame(0.012)]);
    earliest = c.at + rate / 500;
    out.push_back(c);
  }
  maskAfterStrokes(out, rate);
  return out;
}

using Near = std::span<const Candidate>;

/// Attacks within `seconds` of a frame.
Near attacksNear(const std::vector<Candidate>& sharps, std::int64_t at, double seconds, int rate) {
  const auto reach = static_cast<std::int64_t>(seconds * rate);
  const auto from =
      std::lower_bound(sharps.begin(), sharps.end(), at - reach, [](auto& c, auto f) { return c.at < f; });
  const auto to = std::upper_bound(from, sharps.end(), at + reach, [](auto f, auto& c) { return f < c.at; });
  return {from, to};
}

double mostNovel(Near near) {
  double most = 0;
  for (const auto& c : near) most = std::max(most, novelty(c) * c.masked);
  return most;
}

/// The first of the attacks that are any near the strongest of them.
std::optional<std::int64_t> firstStrong(Near near) {
  const auto worth = [](const Candidate& c) { return c.level * novelty(c) * c.masked; };
  double most = 0;
  for (const auto& c : near) most = std::max(most, worth(c));
  if (most <= 0) return {};
  const auto first = std::find_if(near.begin(), near.end(), [&](auto& c) { return worth(c) >= kFirstShare * most; });
  return first->at;
}

/// Whether clear onsets have sharp attacks (plucked, hammered) or none (bowed, sung, pads).
bool isStruck(const std::vector<SoftOnset>& onsets, const std::vector<Candidate>& sharps, int rate) {
  std::vector<double> novel;
  for (const auto& o : onsets)
    if (o.fresh >= kClearOnset * kBowed.counts)
      novel.push_back(mostNovel(attacksNear(sharps, o.at, kStruckReachSeconds, rate)));
  return novel.empty() || percentile(novel, 0.5) >= kStruckNovelty;
}

}  // namespace

std::vector<HeardStroke> findSoftStrokes(std::span<const float> samples, const MicLevel& level, Progress& progress,
                                         double from, double to) {
  const int rate = level.rate;
  const auto sharps = sharpAttacks(samples, level, progress, from, to);
  std::vector<HeardStroke> out;
  if (progress.cancelled()) return out;
  auto onsets = findSoftOnsets(samples, rate, kBowed, kLeastFresh);
  const bool struck = isStruck(onsets, sharps, rate);
  if (progress.cancelled()) return out;
  if (struck) onsets = findSoftOnsets(samples, rate, kStruck, kLeastFresh);
  const auto frames = [&](double seconds) { return static_cast<std::int64_t>(seconds * rate); };
  const auto late = struck ? 0 : frames(kBowedLateSeconds);
  /// Where the level or an attack shows it.
  const auto seen = [&](std::int64_t at) -> std::optional<std::int64_t> {
    if (struck) return firstStrong(attacksNear(sharps, at, kSoftSeconds, rate));
    const auto start = swellStart(level, at);
    const auto near = attacksNear(sharps, start.value_or(at + late), kSharpReachSeconds, rate);
    const auto sharp = mostNovel(near) >= kSharpNovelty ? firstStrong(near) : std::nullopt;
    return sharp ? sharp : start;
  };
  const auto rises = struck ? std::vector<BroadRise>{} : broadRises(samples, level, progress, {to, to});
  if (progress.cancelled()) return out;
  const bool driven = isDriven(rises);
  std::vector<NewSound> sounds;
  const double counts = (struck ? kStruck : kBowed).counts;
  std::optional<CycleBreak> last;
  for (const auto& soft : onsets) {
    if (progress.cancelled()) return {};
    HeardStroke s;
    const auto shown = seen(soft.at);
    s.at = shown.value_or(soft.at + late);
    const double fresh = (soft.fresh - counts) / kFreshReach;
    const auto broken = cycleBreakAt(samples, rate, static_cast<double>(s.at) / rate);
    if (driven) {
      sounds.push_back({s.at, soft.fresh, broken});
      continue;
    }
    s.sure = sureness(fresh, broken);
    // Where nothing shows, or so little is new that only its cycles tell, they tell where as well.
    if (broken && (fresh <= 0 || (!shown && broken->clear()))) s.at = std::llround(broken->at * rate);
    // What swells slowly is as loud as it is a little later.
    s.level = std::max(level.at(s.at), level.at(s.at + frames(kSoftSeconds)));
    const bool sameBreak = broken && last && std::abs(broken->at - last->at) < kOneBreakSeconds;
    last = broken;
    if (out.empty() || (!sameBreak && s.at - out.back().at > frames(kSoftSeconds) / 2))
      out.push_back(s);
    else if (s.sure > out.back().sure)
      out.back() = s;
  }
  if (driven) return findDrivenStrokes(sounds, rises, level);
  std::sort(out.begin(), out.end(), [](const HeardStroke& a, const HeardStroke& b) { return a.at < b.at; });
  return out;
}

}  // namespace ochron

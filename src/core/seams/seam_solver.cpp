#include "seams/seam_solver.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "dsp/fade.h"

namespace ochron {
namespace {

constexpr double kProtectMs = 20;      // the first part of an attack that no crossfade may touch
constexpr double kLeastProtectMs = 4;  // when hits stand very close
constexpr double kGuardMs = 0.5;       // between the crossfade's end and the next attack
constexpr double kLeastCrossfadeMs = 0.5;
constexpr double kSearchMs = 40;         // how far before the attack a quieter place is looked for
constexpr double kDbPerMs = 0.25;        // what a millisecond away from the lead-in is worth in quietness
constexpr double kLikenessDb = 6;        // what full likeness of both sides is worth
constexpr double kSilencePower = 1e-10;  // -100 dBFS
constexpr int kCandidates = 5;
constexpr std::size_t kMicsCompared = 3;
constexpr double kFadeMs = 3;

Frames frames(double ms, int rate) { return Frames{std::llround(ms * rate / 1000.0)}; }

/// Loudness of both sides around song time `at`, each mic against its own mean, in dB.
double loudnessDb(Frames at, Frames half, const JointProblem& p, const std::vector<MicView>& mics) {
  double sum = 0;
  for (const auto& m : mics) {
    const double both = m.energy(at - half - p.earlierShift, at + half - p.earlierShift) +
                        m.energy(at - half - p.laterShift, at + half - p.laterShift);
    sum += both / (m.power + kSilencePower);
  }
  return 10 * std::log10(sum / std::max<std::size_t>(1, mics.size()) + 1e-6);
}

double likeness(Frames at, Frames half, const JointProblem& p, const std::vector<MicView>& mics) {
  if (p.earlierShift == p.laterShift) return 1;
  std::array<std::pair<double, const MicView*>, kMicsCompared> loudest{};
  for (const auto& m : mics) {
    const double e = m.energy(at - half - p.laterShift, at + half - p.laterShift);
    auto slot = std::min_element(loudest.begin(), loudest.end());
    if (e > slot->first) *slot = {e, &m};
  }
  double sum = 0;
  double weight = 0;
  for (const auto& [energy, m] : loudest) {
    if (!m) continue;
    const auto a = m->samples(at - half - p.earlierShift, at + half - p.earlierShift);
    const auto b = m->samples(at - half - p.laterShift, at + half - p.laterShift);
    if (a.empty() || b.empty()) continue;
    sum += energy * correlation(a, b);
    weight += energy;
  }
  return weight > 0 ? sum / weight : 0;
}

Joint fadedJoint(const JointProblem& p, const JointSettings& s) {
  Joint j;
  j.fill = SeamFill::faded;
  const auto guard = frames(kGuardMs, s.rate);
  const auto fade = frames(kFadeMs, s.rate);
  j.earlierEnd = p.nextAttack + p.earlierShift - guard;
  // The later piece begins with its lead-in, never with the earlier attack.
  const auto leadIn = std::min(frames(s.leadInMs, s.rate), std::max(Frames{0}, p.nextAttack - p.lastAttack - fade));
  j.at = std::max(p.nextAttack + p.laterShift - leadIn, j.earlierEnd);
  return j;
}

}  // namespace

Joint solveJoint(const JointProblem& p, const JointSettings& s, const std::vector<MicView>& mics) {
  const auto guard = frames(kGuardMs, s.rate);
  const auto apart = p.laterShift - p.earlierShift;
  Joint j;
  j.fill = apart.value == 0 ? SeamFill::none : apart.value > 0 ? SeamFill::continuation : SeamFill::shortened;
  const auto high = p.nextAttack + std::min(p.earlierShift, p.laterShift) - guard;
  Frames low;
  Frames length = frames(s.crossfadeMs, s.rate);
  const auto lowFor = [&](double protectMs) {
    return std::max(p.lastAttack + std::max(p.earlierShift, p.laterShift) + frames(protectMs, s.rate),
                    p.earliest + p.laterShift);
  };
  double protect = kProtectMs;
  for (; protect >= kLeastProtectMs; protect -= 2) {
    low = lowFor(protect);
    if (high - low >= length) break;
  }
  if (high - low < length) {  // shorten the crossfade before touching an attack
    length = std::max(high - low, Frames{0});
    if (length < frames(kLeastCrossfadeMs, s.rate)) {
      if (apart.value > 0) return fadedJoint(p, s);
      // Pieces pushed together within an attack: the later attack wins, the earlier one is cut right before it.
      length = frames(kLeastCrossfadeMs, s.rate);
      low = high - length;
    }
  }
  const auto half = length / 2;
  const auto first = std::max(low, high - frames(kSearchMs, s.rate) - length) + half;
  const auto last = high - (length - half);
  const auto wanted = std::clamp(p.nextAttack + p.laterShift - frames(s.leadInMs, s.rate), first, last);
  const auto step = Frames{std::max<std::int64_t>(kPeakBaseFrames, s.rate * 2 / 1000)};
  std::vector<std::pair<double, Frames>> found;
  for (Frames at = wanted; at >= first; at -= step)
    found.emplace_back(
        loudnessDb(at, half, p, mics) + kDbPerMs * static_cast<double>((wanted - at).value) * 1000.0 / s.rate, at);
  const auto keep = std::min<std::size_t>(kCandidates, found.size());
  std::partial_sort(found.begin(), found.begin() + static_cast<std::ptrdiff_t>(keep), found.end(),
                    [](auto& a, auto& b) { return a.first < b.first; });
  auto best = found.front();
  double bestCost = 1e9;
  for (std::size_t i = 0; i < keep; ++i) {
    const double cost =
        found[i].first - (apart.value == 0 ? 0 : kLikenessDb * likeness(found[i].second, half, p, mics));
    if (cost < bestCost) bestCost = cost, best = found[i];
  }
  j.at = best.second;
  j.earlierEnd = j.at;
  j.crossfade = length;
  return j;
}

}  // namespace ochron

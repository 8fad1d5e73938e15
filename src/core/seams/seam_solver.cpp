#include "seams/seam_solver.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "dsp/fade.h"
#include "seams/hidden_attacks.h"

namespace ochron {
namespace {

constexpr double kProtectMs = 20;      // the first part of an attack that no crossfade may touch
constexpr double kLeastProtectMs = 4;  // when hits stand very close
constexpr double kGuardMs = 0.5;       // between the crossfade's end and the next attack
constexpr double kLeastCrossfadeMs = 0.5;
constexpr double kSearchMs = 40;         // how far before the attack a quieter place is looked for
constexpr double kDbPerMs = 0.25;        // what a millisecond away from the lead-in is worth in quietness
constexpr double kLikenessDb = 6;        // what full likeness of both sides is worth
constexpr double kHiddenDb = 30;         // what an attack costs that is cut or doubled though no hit stands for it
constexpr double kHiddenMs = 8;          // of such an attack that should be whole
constexpr double kSilencePower = 1e-10;  // -100 dBFS
constexpr int kCandidates = 5;
constexpr std::size_t kMicsCompared = 3;
constexpr double kFadeMs = 3;
constexpr double kOpposed = -0.4;  // likeness below which both sides ring against each other
constexpr double kOpposedCrossfadeMs = 1.6;
constexpr double kOpposedReachMs = 5;
constexpr double kHoldMs = 25;          // of an attack, before its sustain may be stretched
constexpr double kLeastSustainMs = 60;  // less than this cannot be stretched
constexpr double kMostStretch = 1.5;    // of a sustain over a gap, against its own length, unless asked for

/// Loudness of both sides around song time `at`, each mic against its own mean, in dB.
double loudnessDb(Frames at, Frames half, const JointProblem& p, const EnergySums& sums) {
  double sum = 0;
  const auto& mics = sums.mics();
  for (std::size_t m = 0; m < mics.size(); ++m) {
    const double both = sums.energy(m, at - half - p.earlierShift, at + half - p.earlierShift) +
                        sums.energy(m, at - half - p.laterShift, at + half - p.laterShift);
    sum += both / (mics[m].power + kSilencePower);
  }
  return 10 * std::log10(sum / static_cast<double>(std::max<std::size_t>(1, mics.size())) + 1e-6);
}

using Loudest = std::array<std::pair<double, const MicView*>, kMicsCompared>;

Loudest loudestMics(Frames at, Frames half, const JointProblem& p, const EnergySums& sums) {
  Loudest loudest{};
  for (std::size_t m = 0; m < sums.mics().size(); ++m) {
    const double e = sums.energy(m, at - half - p.laterShift, at + half - p.laterShift);
    auto slot = std::min_element(loudest.begin(), loudest.end());
    if (e > slot->first) *slot = {e, &sums.mics()[m]};
  }
  return loudest;
}

struct Likeness {
  double mean = 1;   // by energy
  double least = 1;  // of the three loudest mics
};

Likeness likeness(Frames at, Frames half, const JointProblem& p, const EnergySums& sums) {
  if (p.earlierShift == p.laterShift) return {};
  double sum = 0;
  double weight = 0;
  double least = 1;
  std::vector<float> roomA;
  std::vector<float> roomB;
  for (const auto& [energy, m] : loudestMics(at, half, p, sums)) {
    if (!m) continue;
    const auto a = m->samples(at - half - p.earlierShift, at + half - p.earlierShift, roomA);
    const auto b = m->samples(at - half - p.laterShift, at + half - p.laterShift, roomB);
    if (a.empty() || b.empty()) continue;
    const double r = correlation(a, b);
    sum += energy * r;
    weight += energy;
    least = std::min(least, r);
  }
  return {weight > 0 ? sum / weight : 0, least};
}

Frames leadInOf(const JointSettings& s) { return s.leadIn.value_or(framesFromMs(s.leadInMs, s.rate)); }

Joint fadedJoint(const JointProblem& p, const JointSettings& s) {
  Joint j;
  j.fill = SeamFill::faded;
  const auto guard = framesFromMs(kGuardMs, s.rate);
  const auto fade = framesFromMs(kFadeMs, s.rate);
  j.earlierEnd = p.nextAttack + p.earlierShift - guard;
  // The later piece begins with its lead-in, never with the earlier attack.
  const auto leadIn = std::min(leadInOf(s), std::max(Frames{0}, p.nextAttack - p.lastAttack - fade));
  j.latest = p.nextAttack + p.laterShift - guard;
  j.at = std::clamp(p.nextAttack + p.laterShift - leadIn, std::min(j.earlierEnd, j.latest), j.latest);
  j.earliest = j.earlierEnd;
  return j;
}

/// The earlier sustain, stretched until the later piece's lead-in; none when there is too little of it.
std::optional<Joint> stretchedJoint(const JointProblem& p, const JointSettings& s) {
  Joint j;
  j.fill = SeamFill::stretched;
  const auto guard = framesFromMs(kGuardMs, s.rate);
  j.sustainFrom = p.lastAttack + framesFromMs(kHoldMs, s.rate);
  j.sustainTo = p.nextAttack - guard;
  const auto sustain = j.sustainTo - j.sustainFrom;
  j.crossfade = std::min(s.length.value_or(framesFromMs(s.crossfadeMs, s.rate)), sustain / 4);
  const auto low = p.lastAttack + p.laterShift + framesFromMs(kProtectMs, s.rate) + j.crossfade;
  const auto high = p.nextAttack + p.laterShift - guard;
  if (high < low || sustain < framesFromMs(kLeastSustainMs, s.rate)) return {};
  j.earliest = low;
  j.latest = high;
  j.at = std::clamp(p.nextAttack + p.laterShift - leadInOf(s), low, high);
  j.earlierEnd = j.at;
  const auto wanted = j.at - (j.sustainFrom + p.earlierShift);
  const double more = static_cast<double>(wanted.value) / static_cast<double>(sustain.value) - 1;
  const bool asked = s.fill == SeamFill::stretched;
  if (wanted.value <= 0 || more < 0 || (!asked && more > kMostStretch)) return {};
  return j;
}

/// Pieces that move apart with nothing between them that could be played on.
Joint gapJoint(const JointProblem& p, const JointSettings& s) {
  if (s.fill != SeamFill::faded)
    if (const auto j = stretchedJoint(p, s)) return *j;
  return fadedJoint(p, s);
}

/// Attacks of which a joint at song time `at` would cut something away or play it twice.
class HiddenAttacks {
 public:
  HiddenAttacks(Frames first, Frames half, const JointProblem& p, int rate, const EnergySums& sums)
      : whole_(framesFromMs(kHiddenMs, rate)),
        half_(half),
        earlier_(std::max(p.earlierShift, p.laterShift)),
        later_(std::min(p.earlierShift, p.laterShift)) {
    if (earlier_ != later_)
      attacks_ =
          attacksHeard(first - half - earlier_ - whole_, p.nextAttack - framesFromMs(kGuardMs, rate), rate, sums);
  }
  bool any(Frames at) const {
    const auto a = std::lower_bound(attacks_.begin(), attacks_.end(), at - half_ - earlier_ - whole_);
    return a != attacks_.end() && *a < at + half_ - later_;
  }

 private:
  Frames whole_, half_, earlier_, later_;
  std::vector<Frames> attacks_;
};

/// Where in [first, last] both sides are quietest and most alike, not far before `wanted`.
Frames quietestJoint(Frames first, Frames wanted, Frames half, bool moves, const JointProblem& p,
                     const JointSettings& s, const EnergySums& sums) {
  const auto step = Frames{std::max<std::int64_t>(kPeakBaseFrames, s.rate * 2 / 1000)};
  const HiddenAttacks hidden(first, half, p, s.rate, sums);
  std::vector<std::pair<double, Frames>> found;
  for (Frames at = wanted; at >= first; at -= step)
    found.emplace_back(
        loudnessDb(at, half, p, sums) + kDbPerMs * msFromFrames(wanted - at, s.rate) + (hidden.any(at) ? kHiddenDb : 0),
        at);
  const auto keep = std::min<std::size_t>(kCandidates, found.size());
  std::partial_sort(found.begin(), found.begin() + static_cast<std::ptrdiff_t>(keep), found.end(),
                    [](auto& a, auto& b) { return a.first < b.first; });
  auto best = found.front();
  double bestCost = 1e9;
  for (std::size_t i = 0; i < keep; ++i) {
    const double cost = found[i].first - (moves ? kLikenessDb * likeness(found[i].second, half, p, sums).mean : 0);
    if (cost < bestCost) {
      bestCost = cost;
      best = found[i];
    }
  }
  return best.second;
}

/// Both sides ring against each other: no law keeps their level through a crossfade. A short one, where they meet most
/// nearly, keeps the dip too short to be heard.
void settleOpposed(Joint& j, const JointProblem& p, const JointSettings& s, const EnergySums& sums) {
  const auto length = std::min(j.crossfade, framesFromMs(kOpposedCrossfadeMs, s.rate));
  const auto half = length / 2;
  const auto reach = framesFromMs(kOpposedReachMs, s.rate);
  const auto loudest = loudestMics(j.at, reach, p, sums);
  const auto step = Frames{std::max<std::int64_t>(1, s.rate / 8'000)};
  auto best = j.at;
  double least = 1e300;
  const auto first = std::max(j.earliest, j.at - reach);
  const auto last = std::min(j.latest, j.at + reach);
  // How far both sides are apart in each frame of the stretch, summed up from its start.
  std::vector<double> apartUpTo(static_cast<std::size_t>(std::max<std::int64_t>(0, (last - first + half * 2).value)) +
                                1);
  std::vector<float> roomA;
  std::vector<float> roomB;
  for (const auto& [energy, m] : loudest) {
    if (!m) continue;
    const auto a = m->samples(first - half - p.earlierShift, last + half - p.earlierShift, roomA);
    const auto b = m->samples(first - half - p.laterShift, last + half - p.laterShift, roomB);
    if (a.empty() || b.empty()) continue;
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i) {
      sum += (static_cast<double>(a[i]) - b[i]) * (static_cast<double>(a[i]) - b[i]) / (m->power + kSilencePower);
      apartUpTo[i + 1] += sum;
    }
  }
  for (auto at = first; at <= last; at += step) {
    const auto i = static_cast<std::size_t>((at - first).value);
    const double apart = apartUpTo[i + static_cast<std::size_t>((half * 2).value)] - apartUpTo[i];
    if (apart < least) {
      least = apart;
      best = at;
    }
  }
  j.at = j.earlierEnd = best;
  j.crossfade = length;
}

}  // namespace

Joint solveJoint(const JointProblem& p, const JointSettings& s, const std::vector<MicView>& mics) {
  const auto guard = framesFromMs(kGuardMs, s.rate);
  const auto apart = p.laterShift - p.earlierShift;
  if (apart.value > 0 && (s.fill == SeamFill::faded || s.fill == SeamFill::stretched)) return gapJoint(p, s);
  Joint j;
  j.fill = apart.value == 0 ? SeamFill::none : apart.value > 0 ? SeamFill::continuation : SeamFill::shortened;
  const auto high = p.nextAttack + std::min(p.earlierShift, p.laterShift) - guard;
  Frames low;
  Frames length = s.length.value_or(framesFromMs(s.crossfadeMs, s.rate));
  const auto lowFor = [&](double protectMs) {
    return std::max(p.lastAttack + std::max(p.earlierShift, p.laterShift) + framesFromMs(protectMs, s.rate),
                    p.earliest + p.laterShift);
  };
  double protect = s.leadIn || s.length ? kLeastProtectMs : kProtectMs;
  for (; protect >= kLeastProtectMs; protect -= 2) {
    low = lowFor(protect);
    if (high - low >= length) break;
  }
  if (high - low < length) {  // shorten the crossfade before touching an attack
    length = std::max(high - low, Frames{0});
    if (length < framesFromMs(kLeastCrossfadeMs, s.rate)) {
      if (apart.value > 0) return gapJoint(p, s);
      // Pieces pushed together within an attack: the later attack wins, the earlier one is cut right before it.
      length = framesFromMs(kLeastCrossfadeMs, s.rate);
      low = high - length;
    }
  }
  const auto half = length / 2;
  j.earliest = low + half;
  j.latest = high - (length - half);
  const auto first = std::max(low, high - framesFromMs(kSearchMs, s.rate) - length) + half;
  const auto wanted = std::clamp(p.nextAttack + p.laterShift - leadInOf(s), s.leadIn ? j.earliest : first, j.latest);
  const auto later = std::max(p.earlierShift, p.laterShift);
  const auto reach = framesFromMs(kOpposedReachMs, s.rate);
  const EnergySums sums(first - length - later - framesFromMs(kHiddenMs, s.rate), p.nextAttack + reach, mics);
  j.at = s.leadIn ? wanted : quietestJoint(first, wanted, half, apart.value != 0, p, s, sums);
  j.earlierEnd = j.at;
  j.crossfade = length;
  if (apart.value != 0 && !s.leadIn && !s.length && likeness(j.at, half, p, sums).least < kOpposed)
    settleOpposed(j, p, s, sums);
  return j;
}

}  // namespace ochron

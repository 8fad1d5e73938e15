#include "analysis/onsets.h"

#include <algorithm>
#include <cmath>

#include "analysis/attacks.h"
#include "analysis/localise.h"
#include "analysis/mic_level.h"
#include "analysis/onset_kinds.h"
#include "analysis/soft_onsets.h"
#include "analysis/soft_strokes.h"

namespace ochron {
namespace {

constexpr double kChainSeconds = 0.025;  // strokes nearer than this to the one before are one hit
constexpr double kCounts = 0.05;         // claim that counts at the default sensitivity
constexpr double kLeastClaim = 0.0025;   // 20^-2: below, nothing is reported
constexpr double kLoudStroke = 0.35;     // of the reference: tells how a mic rings
constexpr double kSharpRiseDb = 6;
constexpr std::size_t kFewStrokes = 4;
constexpr double kSameStrokeSeconds = 0.012;  // an overhead hears a close mic's stroke within this
constexpr double kTwoKicksSeconds = 0.015;    // two of one drum so far apart never are one hit
constexpr double kSureSlope = 4;
constexpr double kWeakStroke = 0.3;  // such stand among bleed that is hardly weaker
constexpr double kFaintest =
    0.01;  // 40 dB under a loud stroke: fainter ones soon count for nothing (ends of sounds, hiss)

/// One stroke as one guide hears it.
struct Stroke {
  std::int64_t at = 0;  // take time
  int guide = 0;
  double claim = 0;
  double confidence = 0;
  double level = 0;
  DrumClass drum = DrumClass::other;
  bool close = false;  // on the mic of its own drum
};

double claimOf(double sureness) { return std::pow(20.0, sureness - 1); }

DrumClass drumOf(MicHears hears) {
  switch (hears) {
    case MicHears::kick: return DrumClass::kick;
    case MicHears::snare: return DrumClass::snare;
    case MicHears::tom: return DrumClass::tom;
    default: return DrumClass::other;
  }
}

bool isSoft(const MicLevel& level, const std::vector<Attack>& attacks) {
  std::vector<std::int64_t> sharp;
  std::vector<std::int64_t> swells;
  for (const auto& a : attacks)
    if (level.at(a.at) >= kLoudStroke) (a.rise >= kSharpRiseDb ? sharp : swells).push_back(a.at * 1000 / level.rate);
  if (sharp.size() < kFewStrokes) sharp = std::move(swells);
  return soundsOn(level.peaks, sharp);
}

std::vector<Stroke> strokesOn(const GuideSignal& signal, int guide, bool several, int rate, Progress& progress,
                              double from, double to) {
  std::vector<Stroke> out;
  const MicLevel level(signal.samples, rate);
  if (level.silent) return out;
  const double half = from + 0.6 * (to - from);
  const BandEnergy energy(signal.samples, rate, progress, from, half);
  const auto attacks = findAttacks(signal.samples, rate, energy, {}, progress);
  if (progress.cancelled()) return out;
  const bool closeMic = signal.hears != MicHears::unknown && signal.hears != MicHears::everything;
  if (!closeMic && isSoft(level, attacks)) {
    for (const auto& s : findSoftStrokes(signal.samples, level, progress, half, to)) {
      Stroke x{s.at + signal.offset.value, guide, s.claim, std::clamp(0.3 + 4 * s.claim, 0.0, 1.0), s.level};
      out.push_back(x);
    }
    return out;
  }
  const auto hears = signal.hears == MicHears::unknown ? hearsBySound(signal.samples, rate, attacks) : signal.hears;
  const auto sure = judgeAttacks(signal.samples, rate, attacks, hears, several);
  DrumGuesser guesser(rate);
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    const double loud = level.at(attacks[i].at);
    const double claim = claimOf(sure[i]) * std::min(1.0, std::pow(loud / kFaintest, 4));
    if (claim < kLeastClaim) continue;
    Stroke s{attacks[i].at + signal.offset.value, guide, claim, 1 / (1 + std::exp(-kSureSlope * sure[i])), loud};
    s.drum = drumOf(hears);
    s.close = s.drum != DrumClass::other;
    if (s.close && hears != MicHears::kick && loud < kWeakStroke)
      s.at = placeByBody(signal.samples, rate, attacks[i].at) + signal.offset.value;
    if (!s.close) s.drum = guesser.guess(signal.samples, attacks[i].at);
    out.push_back(s);
  }
  return out;
}

using Chain = std::vector<const Stroke*>;

/// Strokes that follow each other closely, in order of time.
std::vector<Chain> chained(const std::vector<const Stroke*>& strokes, int rate) {
  const auto reach = static_cast<std::int64_t>(kChainSeconds * rate);
  const auto apart = static_cast<std::int64_t>(kTwoKicksSeconds * rate);
  std::vector<Chain> out;
  for (const auto* s : strokes) {
    const bool again = !out.empty() && s->drum == DrumClass::kick &&
                       std::any_of(out.back().begin(), out.back().end(), [&](const Stroke* o) {
                         return o->guide == s->guide && o->drum == s->drum && s->at - o->at >= apart;
                       });
    if (out.empty() || s->at - out.back().back()->at > reach || again) out.emplace_back();
    out.back().push_back(s);
  }
  return out;
}

int rank(DrumClass drum) {
  switch (drum) {
    case DrumClass::kick:
    case DrumClass::snare: return 0;
    case DrumClass::tom: return 1;
    default: return 2;
  }
}

/// The strokes of a chain, each drum once: what an overhead hears of a close mic's stroke is that stroke.
std::vector<const Stroke*> distinct(const Chain& chain, int rate) {
  const auto same = static_cast<std::int64_t>(kSameStrokeSeconds * rate);
  std::vector<const Stroke*> out;
  for (const bool close : {true, false})
    for (const auto* s : chain) {
      if (s->close != close) continue;
      const bool known = std::any_of(out.begin(), out.end(), [&](const Stroke* o) {
        return o->drum == s->drum || (!s->close && std::abs(o->at - s->at) <= same);
      });
      if (!known) out.push_back(s);
    }
  return out;
}

Onset hitFrom(const Chain& chain, int rate) {
  auto strokes = distinct(chain, rate);
  std::stable_sort(strokes.begin(), strokes.end(), [](auto* a, auto* b) {
    return rank(a->drum) != rank(b->drum) ? rank(a->drum) < rank(b->drum) : a->at < b->at;
  });
  std::stable_sort(strokes.begin() + 1, strokes.end(), [](auto* a, auto* b) { return a->at < b->at; });
  const auto& lead = *strokes.front();
  Onset o;
  o.at = Frames{lead.at};
  // Without a close mic the stroke begins where the first guide hears it.
  if (!lead.close) o.at = Frames{chain.front()->at};
  o.drum = lead.drum;
  o.strength = std::clamp(lead.level, 0.0, 1.0);
  double doubt = 1;
  for (const auto* s : chain) {
    doubt *= 1 - s->confidence;
    const auto heard = std::find_if(o.guides.begin(), o.guides.end(), [&](auto& g) { return g.guide == s->guide; });
    if (heard == o.guides.end())
      o.guides.push_back({s->guide, s->claim});
    else
      heard->claim = std::max(heard->claim, s->claim);
  }
  o.confidence = 1 - doubt;
  std::stable_sort(o.guides.begin(), o.guides.end(), [](auto& a, auto& b) { return a.claim > b.claim; });
  for (const auto* s : strokes)
    o.strokes.push_back({s == &lead ? o.at : Frames{s->at}, s->drum, std::clamp(s->level, 0.0, 1.0), s->guide});
  return o;
}

}  // namespace

Result<std::vector<Onset>> detectOnsets(const std::vector<GuideSignal>& signals, int rate, Progress& progress) {
  std::vector<Stroke> all;
  const auto share = 1.0 / static_cast<double>(std::max<std::size_t>(1, signals.size()));
  for (std::size_t i = 0; i < signals.size(); ++i) {
    const auto on = strokesOn(signals[i], static_cast<int>(i), signals.size() > 1, rate, progress,
                              share * static_cast<double>(i), share * static_cast<double>(i + 1));
    if (progress.cancelled()) return cancelledError();
    all.insert(all.end(), on.begin(), on.end());
  }
  std::stable_sort(all.begin(), all.end(), [](auto& a, auto& b) { return a.at < b.at; });
  // What counts makes the hits; weaker attacks are heard along with them, or are hits of their own at a higher
  // sensitivity.
  std::vector<const Stroke*> counting;
  std::vector<const Stroke*> weak;
  for (const auto& s : all) (s.claim >= kCounts ? counting : weak).push_back(&s);
  std::vector<Onset> out;
  for (const auto& chain : chained(counting, rate)) out.push_back(hitFrom(chain, rate));
  const auto reach = Frames{static_cast<std::int64_t>(kChainSeconds * rate)};
  const auto hits = out;
  for (const auto& chain : chained(weak, rate)) {
    auto weaker = hitFrom(chain, rate);
    const auto next = std::lower_bound(hits.begin(), hits.end(), weaker.at, [](auto& o, Frames f) { return o.at < f; });
    const bool beside = (next != hits.end() && next->at - weaker.at <= reach) ||
                        (next != hits.begin() && weaker.at - std::prev(next)->at <= reach);
    if (!beside) out.push_back(std::move(weaker));
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.at < b.at; });
  progress.report(1.0);
  return out;
}

}  // namespace ochron

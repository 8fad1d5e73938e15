#include "analysis/onsets.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <optional>

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
constexpr double kLevelSeconds = 0.012;       // an attack's level is its peak in this time
constexpr double kGroupSeconds = 0.014;       // the same stroke reaches all guides within this
constexpr double kOwnTwice = 3.0;             // this far above the usual bleed it is a stroke of its own
constexpr double kLeastClaim = 0.002;         // 54 dB under a loud stroke: hiss
constexpr double kWeakStroke = 0.3;
constexpr double kBodyHz = 900;
constexpr double kWeakFloor = 3e-3;
constexpr double kEchoSeconds = 0.013;
constexpr double kEchoRatio = 0.5;
constexpr double kShadowSeconds = 0.25;
constexpr double kShadowDb = -12;      // under a stroke right after it
constexpr double kShadowFallDb = 100;  // a second
constexpr double kClearEnough = 0.75;  // of the clearest guide: others only vote
constexpr double kLoudStroke = 0.35;   // strokes that show what a guide's own drum sounds like

constexpr double kLeastFresh = 0.15;  // of the spectrum: what a tone that goes on may show
constexpr double kFreshReach = 0.15;
constexpr std::size_t kFewStrokes = 4;
constexpr std::int64_t kSwellPeakMs = 9;
constexpr std::int64_t kSwellReachMs = 70;
constexpr float kSwellFrom = 0.4F;
constexpr float kSwellShare = 0.15F;
constexpr double kSoftSeconds = 0.035;
constexpr double kSoftFirstShare = 0.15;

struct Candidate {
  int guide = 0;
  std::int64_t at = 0;  // frames in take time
  double level = 0;     // peak against the guide's loud strokes
  double rise = 0;      // how much of it is new in the spectrum, 0 to 1
  double jump = 0;      // how much of it is new in the level, 0 to 1
  double masked = 1;    // marked down in the shadow of a louder stroke
  bool soft = false;    // of an instrument that sounds on
  double likeness = 1;  // to the guide's own loud strokes
  BandShape shape{};
};

struct GuideTrace {
  std::vector<Candidate> candidates;
  std::vector<float> envelope;  // peak of each millisecond
  std::int64_t offset = 0;
  double reference = 1;  // peak of a loud stroke
  double clarity = 0;    // how plainly strokes stand out

  /// Share of the level at `frame` that was not there in the 16 ms before: the swing of a low tone is no attack.
  double jumpAt(std::int64_t frame, int rate) const {
    const auto first = static_cast<std::int64_t>(static_cast<double>(frame - offset) * 1000.0 / rate);
    float before = 0;
    for (auto i = std::max<std::int64_t>(0, first - 16); i < first; ++i)
      before = std::max(before, envelope[static_cast<std::size_t>(i)]);
    const double after = levelAt(frame, rate) * reference;
    return after > 0 ? std::clamp(1.0 - before / after, 0.0, 1.0) : 0.0;
  }
  double levelAt(std::int64_t frame, int rate) const {
    const auto ms = [&](double f) { return static_cast<std::int64_t>(f * 1000.0 / rate); };
    const auto first = std::max<std::int64_t>(0, ms(static_cast<double>(frame - offset)) - 2);
    const auto last =
        std::min<std::int64_t>(std::ssize(envelope), first + static_cast<std::int64_t>(kLevelSeconds * 1000) + 3);
    float peak = 0;
    for (auto i = first; i < last; ++i) peak = std::max(peak, envelope[static_cast<std::size_t>(i)]);
    return peak / reference;
  }
};

std::vector<float> millisecondPeaks(std::span<const float> samples, int rate) {
  std::vector<float> out;
  const double hop = rate / 1000.0;
  for (double at = 0; at < static_cast<double>(samples.size()); at += hop) {
    const auto last = std::min(samples.size(), static_cast<std::size_t>(at + hop));
    float peak = 0;
    for (auto i = static_cast<std::size_t>(at); i < last; ++i) peak = std::max(peak, std::abs(samples[i]));
    out.push_back(peak);
  }
  return out;
}

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

double percentile(std::vector<double> v, double share) {
  if (v.empty()) return 0;
  const auto at = v.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(v.size() - 1));
  std::nth_element(v.begin(), at, v.end());
  return *at;
}

/// The peak level that a guide's loud strokes reach: 1 in the middle of its upper quarter of distinct attacks.
double loudLevel(const std::vector<float>& envelope) {
  std::vector<double> peaks;
  for (std::size_t i = 0; i + 200 <= envelope.size() || i < envelope.size(); i += 200)
    peaks.push_back(
        *std::max_element(envelope.begin() + static_cast<std::ptrdiff_t>(i),
                          envelope.begin() + static_cast<std::ptrdiff_t>(std::min(envelope.size(), i + 200))));
  const double top = peaks.empty() ? 0 : *std::max_element(peaks.begin(), peaks.end());
  std::erase_if(peaks, [&](double p) { return p < 0.25 * top; });
  return percentile(peaks, 0.75);
}

void compareWithOwnStrokes(std::vector<Candidate>& candidates) {
  std::vector<const Candidate*> loud;
  for (const auto& c : candidates)
    if (c.level >= kLoudStroke) loud.push_back(&c);
  constexpr std::size_t kAtMost = 64;
  if (loud.size() > kAtMost) {
    std::vector<const Candidate*> some;
    for (std::size_t i = 0; i < kAtMost; ++i) some.push_back(loud[i * loud.size() / kAtMost]);
    loud = some;
  }
  if (loud.empty()) return;
  for (auto& c : candidates) {
    std::vector<double> likeness;
    for (const auto* l : loud) likeness.push_back(alike(c.shape, l->shape));
    // The tenth part that fits best: a guide may hear more than one drum of its own.
    c.likeness = percentile(likeness, 0.9);
  }
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

/// Share of a guide's loud strokes' sound that lies below kBodyHz.
double lowShare(const std::vector<Candidate>& candidates) {
  double low = 0;
  double all = 0;
  for (const auto& c : candidates) {
    if (c.level < kLoudStroke) continue;
    for (int b = 0; b < kFluxBands; ++b) {
      const double share =
          static_cast<double>(c.shape.bands[static_cast<std::size_t>(b)]) * c.shape.bands[static_cast<std::size_t>(b)];
      all += share;
      if (bandCentreHz(b) < kBodyHz) low += share;
    }
  }
  return all > 0 ? low / all : 1;
}

/// Weak strokes stand among bleed that is hardly weaker. On a guide whose drum has body, they are placed by their body:
/// the same localisation after two one-pole low-passes, whose delay is taken off again.
void placeWeakStrokes(std::vector<Candidate>& candidates, const GuideSignal& signal, int rate) {
  if (lowShare(candidates) < 0.5) return;
  const auto reach = static_cast<std::int64_t>(0.03 * rate);
  const auto a = static_cast<float>(1.0 - std::exp(-2 * std::numbers::pi * kBodyHz / rate));
  const auto delay = static_cast<std::int64_t>(std::lround(2 * (1.0 - a) / a));
  std::vector<float> body;
  for (auto& c : candidates) {
    if (c.level >= kWeakStroke) continue;
    const auto local = c.at - signal.offset.value;
    const auto first = std::max<std::int64_t>(0, local - reach);
    const auto last = std::min<std::int64_t>(std::ssize(signal.samples), local + reach);
    body.assign(signal.samples.begin() + first, signal.samples.begin() + last);
    float y1 = body.empty() ? 0 : body.front();
    float y2 = y1;
    for (auto& s : body) y1 += a * (s - y1), y2 += a * (y1 - y2), s = y2;
    const auto from = std::max<std::int64_t>(0, local - first - static_cast<std::int64_t>(0.008 * rate));
    const auto to = std::min<std::int64_t>(std::ssize(body), local - first + static_cast<std::int64_t>(0.012 * rate));
    const auto coarse = pickVarianceChange(body, from, to, kWeakFloor) + first - delay;
    c.at = refineAttack(signal.samples, rate, coarse, first) + signal.offset.value;
  }
}

/// Where a swell that is steepest near `at` (frames of the guide) begins: where the level last was within 15 % of the
/// lowest before it. `at` itself when the level hardly rises (a legato).
std::int64_t swellStart(const GuideTrace& g, std::int64_t at, int rate) {
  const auto ms = at * 1000 / rate;
  const auto level = [&](std::int64_t i) {  // over half a period of a low tone
    float peak = 0;
    for (auto k = std::max<std::int64_t>(0, i - kSwellPeakMs); k <= i && k < std::ssize(g.envelope); ++k)
      peak = std::max(peak, g.envelope[static_cast<std::size_t>(k)]);
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

/// On a guide that sounds on between its strokes only what brings new sound is an onset. It is placed by the first
/// sharp attack near it (consonant and vowel, the strings of a chord are one), else where the rise is steepest.
void keepSoftOnsets(GuideTrace& g, const GuideSignal& signal, int rate) {
  std::vector<std::int64_t> strokesMs;
  std::vector<std::int64_t> swellsMs;
  for (const auto& c : g.candidates)
    if (c.level >= kLoudStroke) (novelty(c) > 0.3 ? strokesMs : swellsMs).push_back((c.at - g.offset) * 1000 / rate);
  if (strokesMs.size() < kFewStrokes) strokesMs = std::move(swellsMs);
  if (!soundsOn(g.envelope, strokesMs)) return;
  const auto worth = [](const Candidate& c) { return c.level * novelty(c) * c.masked; };
  const auto near = static_cast<std::int64_t>(kSoftSeconds * rate);
  std::vector<Candidate> kept;
  for (const auto& soft : findSoftOnsets(signal.samples, rate, kLeastFresh)) {
    Candidate c;
    c.guide = g.candidates.empty() ? 0 : g.candidates.front().guide;
    c.at = soft.at + g.offset;
    bool sharply = false;
    double most = 0;
    for (const auto& sharp : g.candidates)
      if (std::abs(sharp.at - c.at) <= near) most = std::max(most, worth(sharp));
    for (const auto& sharp : g.candidates) {
      if (std::abs(sharp.at - c.at) > near || worth(sharp) < kSoftFirstShare * most || worth(sharp) <= 0) continue;
      c.at = sharp.at, c.shape = sharp.shape;
      sharply = true;
      break;
    }
    if (!sharply) c.at = swellStart(g, soft.at, rate) + g.offset;
    // What swells slowly is as loud as it is a little later.
    c.level = std::max(g.levelAt(c.at, rate), g.levelAt(c.at + near, rate));
    c.soft = true;
    c.rise = c.jump = 1;
    c.masked = std::clamp((soft.fresh - kLeastFresh) / kFreshReach, 0.0, 1.0);
    if (kept.empty() || c.at - kept.back().at > near / 2) kept.push_back(c);
  }
  g.candidates = std::move(kept);
}

/// How plainly a guide's loud strokes stand out: near 1 for close mics, less for rooms.
double clarityOf(const std::vector<Candidate>& candidates) {
  std::vector<double> jumps;
  for (const auto& c : candidates)
    if (c.level >= kLoudStroke && novelty(c) > 0.3) jumps.push_back(0.5 * (c.jump + c.rise));
  return percentile(jumps, 0.5);
}

GuideTrace analyseGuide(const GuideSignal& signal, int guide, int rate, Progress& progress, double from, double to) {
  GuideTrace g;
  g.offset = signal.offset.value;
  g.envelope = millisecondPeaks(signal.samples, rate);
  g.reference = loudLevel(g.envelope);
  if (g.reference <= 1e-6) return g.reference = 1, g;  // a silent mic
  const auto trace = traceFlux(signal.samples, rate, 1.0 / g.reference, progress, from, to);
  if (progress.cancelled()) return g;
  std::int64_t earliest = 0;
  for (const auto n : pickPeaks(trace, rate)) {
    Candidate c;
    c.guide = guide;
    const auto coarse = static_cast<std::int64_t>(n) * trace.hop;
    const auto local = localiseAttack(signal.samples, rate, coarse, earliest);
    c.at = local + g.offset;
    if (!g.candidates.empty() && c.at - g.candidates.back().at < rate / 250) continue;  // the same attack seen twice
    c.level = g.levelAt(c.at, rate);
    c.jump = g.jumpAt(c.at, rate);
    const auto frame = [&](double seconds) {
      return static_cast<std::size_t>(
          std::clamp<std::int64_t>(static_cast<std::int64_t>((static_cast<double>(local) + seconds * rate) / trace.hop),
                                   0, std::ssize(trace.bands) - 1));
    };
    c.shape = shapeOfAttack(trace.bands[frame(-0.008)], trace.bands[frame(0.006)], trace.bands[frame(0.012)], c.rise);
    earliest = local + rate / 500;
    g.candidates.push_back(c);
  }
  compareWithOwnStrokes(g.candidates);
  placeWeakStrokes(g.candidates, signal, rate);
  maskAfterStrokes(g.candidates, rate);
  keepSoftOnsets(g, signal, rate);
  g.clarity = clarityOf(g.candidates);
  return g;
}

/// ratio[g][h]: what guide g usually hears when guide h's own drum is struck at level 1.
std::vector<std::vector<double>> usualBleed(const std::vector<GuideTrace>& guides, int rate) {
  const auto n = guides.size();
  std::vector<std::vector<double>> ratio(n, std::vector<double>(n, 0.0));
  for (std::size_t h = 0; h < n; ++h)
    for (std::size_t g = 0; g < n; ++g) {
      if (g == h) continue;
      std::vector<double> seen;
      for (const auto& c : guides[h].candidates)
        if (c.level >= kLoudStroke) seen.push_back(guides[g].levelAt(c.at, rate) / c.level);
      ratio[g][h] = percentile(seen, 0.35);
    }
  return ratio;
}

double ownness(double likeness) { return std::clamp((likeness - 0.55) / 0.30, 0.0, 1.0); }

using Group = std::vector<const Candidate*>;

std::vector<Group> groupStrokes(const std::vector<GuideTrace>& guides, int rate) {
  std::vector<const Candidate*> all;
  for (const auto& g : guides)
    for (const auto& c : g.candidates) all.push_back(&c);
  std::sort(all.begin(), all.end(), [](auto* a, auto* b) { return a->at < b->at; });
  std::vector<Group> groups;
  const auto reach = static_cast<std::int64_t>(kGroupSeconds * rate);
  for (const auto* c : all) {
    const bool fits =
        !groups.empty() && c->at - groups.back().front()->at <= reach &&
        std::none_of(groups.back().begin(), groups.back().end(), [&](auto* o) { return o->guide == c->guide; });
    if (!fits) groups.emplace_back();
    groups.back().push_back(c);
  }
  return groups;
}

double claimOf(const Candidate& c) { return c.level * novelty(c) * c.masked * ownness(c.likeness); }

Onset strokeFrom(const Candidate& lead, const DrumGuess& guess, const Group& group, bool alone) {
  Onset o;
  // Timed on the guide that hears it first among those that hear it clearly.
  std::int64_t at = lead.at;
  for (const auto* c : group)
    if (c->at < at && claimOf(*c) >= 0.5 * claimOf(lead) && alone) at = c->at;
  o.at = Frames{at};
  const double own = ownness(lead.likeness);
  const double fresh = lead.soft ? 1.0 : std::clamp((guess.fresh - 0.02) / 0.15, 0.0, 1.0);
  o.strength = std::clamp(lead.level * novelty(lead) * lead.masked * fresh * std::max(0.05, own), 0.0, 1.0);
  o.drum = lead.soft ? DrumClass::other : guess.drum;
  const double presence = novelty(lead) * std::clamp(0.3 + 4.0 * lead.level, 0.0, 1.0);
  o.confidence = std::clamp((0.25 + 0.75 * own) * presence, 0.0, 1.0);
  o.guides.push_back({lead.guide, o.strength});
  for (const auto* c : group)
    if (c != &lead && c->level > 0.02) o.guides.push_back({c->guide, std::min(o.strength, claimOf(*c))});
  return o;
}

/// One stroke seen twice, on guides that place it a little apart: the weaker sighting goes.
void dropEchoes(std::vector<Onset>& onsets, int rate) {
  const auto reach = static_cast<std::int64_t>(kEchoSeconds * rate);
  std::vector<bool> gone(onsets.size(), false);
  for (std::size_t i = 0; i + 1 < onsets.size(); ++i)
    for (std::size_t k = i + 1; k < onsets.size() && (onsets[k].at - onsets[i].at).value <= reach; ++k) {
      const auto weaker = onsets[i].strength < onsets[k].strength ? i : k;
      const auto stronger = weaker == i ? k : i;
      if (onsets[weaker].strength < kEchoRatio * onsets[stronger].strength) gone[weaker] = true;
    }
  std::size_t i = 0;
  std::erase_if(onsets, [&](const Onset&) { return gone[i++]; });
}

}  // namespace

Result<std::vector<Onset>> detectOnsets(const std::vector<GuideSignal>& signals, int rate, Progress& progress) {
  std::vector<GuideTrace> guides;
  const auto share = 1.0 / static_cast<double>(std::max<std::size_t>(1, signals.size()));
  for (std::size_t i = 0; i < signals.size(); ++i) {
    guides.push_back(analyseGuide(signals[i], static_cast<int>(i), rate, progress, share * static_cast<double>(i),
                                  share * static_cast<double>(i + 1)));
    if (progress.cancelled()) return cancelledError();
  }
  double clearest = 0;
  for (const auto& g : guides) clearest = std::max(clearest, g.clarity);
  const auto leads = [&](const Candidate& c) {
    return guides[static_cast<std::size_t>(c.guide)].clarity >= kClearEnough * clearest;
  };
  DrumGuesser guesser(rate);
  const auto drumOf = [&](const Candidate& c) {
    const auto& signal = signals[static_cast<std::size_t>(c.guide)];
    return guesser.guess(signal.samples, c.at - signal.offset.value);
  };
  const auto bleed = usualBleed(guides, rate);
  std::vector<Onset> out;
  for (const auto& group : groupStrokes(guides, rate)) {
    const Candidate* lead = nullptr;
    for (const auto* c : group)
      if (leads(*c) && (!lead || claimOf(*c) > claimOf(*lead))) lead = c;
    if (!lead || claimOf(*lead) < kLeastClaim) continue;
    const auto guess = drumOf(*lead);
    std::vector<std::pair<const Candidate*, DrumGuess>> strokes{{lead, guess}};
    for (const auto* c : group) {
      if (c == lead || !leads(*c) || claimOf(*c) < 0.2 || alike(c->shape, lead->shape) >= 0.8) continue;
      const auto usual = bleed[static_cast<std::size_t>(c->guide)][static_cast<std::size_t>(lead->guide)];
      const auto other = drumOf(*c);
      const auto known = [&](const auto& s) { return s.second.drum == other.drum; };
      if (c->level > kOwnTwice * usual * lead->level && std::none_of(strokes.begin(), strokes.end(), known))
        strokes.emplace_back(c, other);
    }
    for (const auto& [stroke, drum] : strokes) out.push_back(strokeFrom(*stroke, drum, group, strokes.size() == 1));
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.at < b.at; });
  dropEchoes(out, rate);
  progress.report(1.0);
  return out;
}

}  // namespace ochron

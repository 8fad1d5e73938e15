#include "checks/checks.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "base/numbers.h"
#include "checks/layer_checks.h"
#include "checks/note_checks.h"
#include "checks/print_checks.h"
#include "checks/tempo_checks.h"

namespace ochron {
namespace {

constexpr double kDoubtful = 0.75;  // confidence below which a hit is worth a look
constexpr double kFarMoveMs = 30;
constexpr double kLoudSeamDb = 6;     // above the mean level of the mic
constexpr double kShortSeamMs = 1.5;  // a crossfade squeezed below this may be heard

/// Collects what is to be said about one hit.
class Lister {
 public:
  Lister(const MicSet& set, std::vector<Check>& out) : set_(set), plan_(*set.plan), out_(out) {}
  void at(const PlannedHit& hit) { hit_ = &hit; }
  void add(CheckKind kind, double risk, std::string title, std::string detail) {
    if (plan_.accepted.contains({hit_->hit.id, kind})) return;
    out_.push_back({kind, set_.id, hit_->take, hit_->hit.id, hit_->to(), std::clamp(risk, 0.0, 1.0), std::move(title),
                    std::move(detail)});
  }

 private:
  const MicSet& set_;
  const TimingPlan& plan_;
  std::vector<Check>& out_;
  const PlannedHit* hit_ = nullptr;
};

/// `moves`: its plan is on.
void checkHit(const PlannedHit& h, bool leads, bool moves, int rate, Lister& list) {
  if (h.hit.origin == HitOrigin::detected && h.hit.confidence < kDoubtful)
    list.add(CheckKind::weakHit, 0.55 * (1 - h.hit.confidence), "weak hit",
             "ghost note or bleed? " + fixed(100 * h.hit.confidence, 0) + " % sure");
  if (!moves || !leads) return;
  if (h.unplaced)
    list.add(CheckKind::twoHitsOnePlace, 0.8, "two hits, one place",
             "moves with the hit before; no grid place of its own");
  const double ms = msFromFrames(h.move, rate);
  if (std::abs(ms) > kFarMoveMs)
    list.add(CheckKind::farMove, std::abs(ms) / 100, "far move",
             fixed(std::abs(ms), 0) + (ms > 0 ? " ms later" : " ms earlier") +
                 (h.limited ? ", cut short by the limit" : ""));
}

void checkSeam(const Clip& piece, const SeamMeasure* measured, const Song& song, Lister& list) {
  const auto& seam = piece.seam;
  const double fade = msFromFrames(seam.before + seam.after, song.rate);
  if (seam.fill == SeamFill::faded)
    return list.add(CheckKind::fadedGap, 0.95, "gap with nothing to fill it", "fades out and in before this hit");
  if (seam.fill == SeamFill::stretched)
    return list.add(CheckKind::stretchedGap, 0.5, "gap filled by stretching", "the sound before it is drawn out");
  if (fade < kShortSeamMs)
    list.add(CheckKind::shortSeam, 0.7, "very short seam", fixed(fade, 1) + " ms of crossfade close to an attack");
  if (!measured) return;
  if (std::abs(measured->levelDb) > kSeamLevelBarDb) {
    const auto* mic = song.find(measured->worst);
    list.add(CheckKind::levelChange, 0.3 + 0.1 * std::abs(measured->levelDb), "level changes at the seam",
             signedFixed(measured->levelDb, 1) + " dB on " + (mic ? mic->name : "a mic"));
  }
  if (measured->steepness > kSeamSteepnessBar)
    list.add(CheckKind::roughSeam, 0.85, "possible click",
             "a step " + fixed(measured->steepness, 1) + " times the recording's usual steepest");
  if (measured->loudDb > kLoudSeamDb)
    list.add(CheckKind::loudSeam, 0.2 + 0.02 * measured->loudDb, "seam on loud material",
             fixed(measured->loudDb, 0) + " dB above the mic's mean");
}

/// The hits from which on the sound is stretched by more than the limit, by a plan or by hand: of each, the most.
std::map<HitId, double> stretchedTooMuch(const MicSet& set, const TimingResult& timing, int rate) {
  std::map<HitId, double> out;
  std::map<std::pair<TakeId, Frames>, HitId> hits;
  for (const auto& h : timing.hits) hits[{h.take, reachOf(h.hit).last}] = h.hit.id;
  for (const auto& c : *set.clips) {
    const auto& pins = c.map.pins();
    for (std::size_t i = 0; i + 1 < pins.size(); ++i) {
      const auto take = (pins[i + 1].take - pins[i].take).value;
      const auto song = (pins[i + 1].stretched - pins[i].stretched).value;
      if (take < rate / 50) continue;
      auto found = hits.upper_bound({c.take, pins[i].take});
      if (found == hits.begin() || (--found)->first.first != c.take) continue;
      const double percent = 100.0 * (static_cast<double>(song) / static_cast<double>(take) - 1);
      if (std::abs(percent) <= set.plan->settings.stretchLimit) continue;
      auto& most = out[found->second];
      if (std::abs(percent) > std::abs(most)) most = percent;
    }
  }
  return out;
}

}  // namespace

CheckGroup groupOf(CheckKind kind) {
  switch (kind) {
    case CheckKind::weakHit: return CheckGroup::hits;
    case CheckKind::twoHitsOnePlace:
    case CheckKind::farMove:
    case CheckKind::tooMuchStretch: return CheckGroup::timing;
    case CheckKind::fadedGap:
    case CheckKind::stretchedGap:
    case CheckKind::shortSeam:
    case CheckKind::levelChange:
    case CheckKind::roughSeam:
    case CheckKind::loudSeam: return CheckGroup::seams;
    case CheckKind::anchorOff:
    case CheckKind::anchorTwoWays:
    case CheckKind::carriedOn:
    case CheckKind::tempoJump:
    case CheckKind::unsureTempo:
    case CheckKind::unsureBars: return CheckGroup::tempo;
    case CheckKind::ghostOrStroke:
    case CheckKind::layerCancels: return CheckGroup::kit;
    case CheckKind::stalePrint: return CheckGroup::print;
    case CheckKind::unsureNote:
    case CheckKind::octaveDoubt:
    case CheckKind::betweenPitches:
    case CheckKind::farPitch:
    case CheckKind::pitchSuffers: return CheckGroup::pitch;
  }
  return CheckGroup::hits;
}

std::vector<Check> checksOf(const Song& song, SetId id, const TimingResult& timing,
                            const std::map<ClipId, SeamMeasure>& seams) {
  std::vector<Check> out;
  const auto* set = song.find(id);
  if (!set) return out;
  std::map<HitId, const Clip*> pieces;
  for (const auto& c : *set->clips)
    if (c.piece && c.piece->hit) pieces[c.piece->hit] = &c;
  const auto stretched = stretchedTooMuch(*set, timing, song.rate);
  Lister list(*set, out);
  for (std::size_t i = 0; i < timing.hits.size(); ++i) {
    const auto& h = timing.hits[i];
    if (h.locked) continue;
    list.at(h);
    if (!h.byHand && !h.out) checkHit(h, h.leader == i, set->plan->settings.on, song.rate, list);
    if (const auto found = stretched.find(h.hit.id); found != stretched.end())
      list.add(CheckKind::tooMuchStretch, 0.3 + std::abs(found->second) / 200, "stretched far",
               signedFixed(found->second, 0) + " % until the next hit");
    if (h.out) continue;
    const auto found = pieces.find(h.hit.id);
    if (found == pieces.end()) continue;
    const auto measured = seams.find(found->second->id);
    checkSeam(*found->second, measured == seams.end() ? nullptr : &measured->second, song, list);
  }
  std::stable_sort(out.begin(), out.end(), [](const Check& a, const Check& b) { return a.risk > b.risk; });
  return out;
}

std::vector<Check> checksOf(const Song& song, const std::map<SetId, TimingResult>& timing,
                            const std::map<ClipId, SeamMeasure>& seams) {
  std::vector<Check> out;
  for (const auto& set : song.sets) {
    for (auto& check : noteChecksOf(song, set.id)) out.push_back(std::move(check));
    const auto planned = timing.find(set.id);
    if (planned == timing.end()) continue;
    std::map<HitId, std::size_t> places;
    for (auto& check : checksOf(song, set.id, planned->second, seams)) {
      const auto [place, fresh] = places.try_emplace(check.hit, out.size());
      if (fresh) {
        out.push_back(std::move(check));
        continue;
      }
      auto& first = out[place->second];
      first.also.push_back(check.kind);
      first.detail += "; " + check.title + ", " + check.detail;
    }
  }
  for (auto& check : layerChecksOf(song)) out.push_back(std::move(check));
  for (auto& check : printChecksOf(song)) out.push_back(std::move(check));
  for (auto& check : tempoChecksOf(song, timing)) out.push_back(std::move(check));
  std::stable_sort(out.begin(), out.end(), [](const Check& a, const Check& b) { return a.risk > b.risk; });
  return out;
}

}  // namespace ochron

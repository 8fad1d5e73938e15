#include "analysis/drums/onsets.h"

#include <algorithm>

#include "analysis/drums/between_mics.h"
#include "analysis/drums/heard_together.h"
#include "analysis/drums/struck_along.h"
#include "base/all_cores.h"
#include "dsp/listening.h"

namespace ochron {
namespace {

constexpr double kCounts = 0.05;        // claim that counts at the default sensitivity
constexpr double kLeastClaim = 0.0025;  // 20^-2: below, nothing is reported
constexpr double kAsStrong = 0.9;
constexpr std::size_t kMostAtOnce = 4;  // five minutes of one mic take some 100 MB while they are listened to

int rank(DrumClass drum) {
  switch (drum) {
    case DrumClass::kick:
    case DrumClass::snare: return 0;
    case DrumClass::tom: return 1;
    default: return 2;
  }
}

/// The strokes of a chain, each but once: what an overhead hears of a close mic's stroke is that stroke, unless it
/// hears more than that.
std::vector<MicStroke> distinct(const StrokeChain& chain, const BetweenMics& between, const StruckAlong& struckAlong,
                                int rate) {
  std::vector<MicStroke> out;
  const auto known = [&](DrumClass drum) {
    return std::any_of(out.begin(), out.end(), [&](auto& o) { return o.drum == drum; });
  };
  const auto close = closeOf(chain, rate);
  for (const auto* s : close) out.push_back(*s);
  const auto along = struckAlong.with(close, chain.front()->at);
  for (const auto* s : chain) {
    if (s->close) continue;
    const bool heard = std::any_of(out.begin(), out.end(), [&](auto& o) { return mayBeOne(o, *s, rate); });
    if (!heard && !known(s->drum)) out.push_back(*s);
    if (heard && along && between.isWide(s->mic) && !known(*along)) {
      out.push_back(*s);
      out.back().drum = *along;
    }
  }
  return out;
}

/// The first of those of the highest rank that are about as strong as any.
std::vector<MicStroke>::iterator leading(std::vector<MicStroke>& strokes) {
  const auto first =
      std::min_element(strokes.begin(), strokes.end(), [](auto& a, auto& b) { return rank(a.drum) < rank(b.drum); });
  const int highest = rank(first->drum);
  double loudest = 0;
  for (const auto& s : strokes)
    if (rank(s.drum) == highest && s.close) loudest = std::max(loudest, s.loud);
  auto lead = strokes.end();
  for (auto s = strokes.begin(); s != strokes.end(); ++s) {
    if (rank(s->drum) != highest || (s->close ? s->loud < loudest * kAsStrong : loudest > 0)) continue;
    if (lead == strokes.end() || s->at < lead->at) lead = s;
  }
  return lead;
}

Onset hitFrom(const StrokeChain& chain, const BetweenMics& between, const StruckAlong& along, int rate) {
  auto strokes = distinct(chain, between, along, rate);
  std::iter_swap(strokes.begin(), leading(strokes));
  std::stable_sort(strokes.begin() + 1, strokes.end(), [](auto& a, auto& b) { return a.at < b.at; });
  auto& lead = strokes.front();
  // Without a close mic the stroke begins where the first guide hears it.
  if (!lead.close) lead.at = chain.front()->at;
  Onset o;
  o.at = lead.at;
  o.drum = lead.drum;
  o.strength = std::clamp(lead.loud, 0.0, 1.0);
  for (const auto* s : chain) {
    o.confidence = std::max(o.confidence, s->confidence());
    const auto heard = std::find_if(o.guides.begin(), o.guides.end(), [&](auto& g) { return g.guide == s->mic; });
    if (heard == o.guides.end())
      o.guides.push_back({s->mic, s->claim()});
    else
      heard->claim = std::max(heard->claim, s->claim());
  }
  std::stable_sort(o.guides.begin(), o.guides.end(), [](auto& a, auto& b) { return a.claim > b.claim; });
  for (const auto& s : strokes) o.strokes.push_back({s.at, s.drum, std::clamp(s.loud, 0.0, 1.0), s.mic});
  return o;
}

/// All mics, their strokes in frames of the listening rate.
Result<std::vector<MicHearing>> listenToAll(const std::vector<GuideSignal>& signals, int rate, Progress& progress) {
  std::vector<MicHearing> out(signals.size());
  std::vector<std::optional<Error>> failed(signals.size());
  Beside beside;
  beside.guides = std::count_if(signals.begin(), signals.end(), [](auto& s) { return s.guide; }) > 1;
  beside.drums = std::any_of(signals.begin(), signals.end(), [](auto& s) { return ownDrum(s.hears).has_value(); });
  onAllCores(
      signals.size(), progress,
      [&](std::size_t i, Progress& part) {
        auto signal = signals[i];
        // Alone and without a name it may be a whole kit or a loop: nothing in it is bleed.
        if (signals.size() == 1 && signal.hears == MicHears::unknown) signal.hears = MicHears::everything;
        const auto heard = Listening::to(signal.samples, rate);
        if (!heard) {
          failed[i] = heard.error();
          return;
        }
        signal.samples = heard->samples();
        signal.offset = atRate(signal.offset, rate, kListeningRate);
        out[i] = listenTo(signal, static_cast<int>(i), beside, kListeningRate, part);
      },
      kMostAtOnce);
  for (auto& f : failed)
    if (f) return tl::unexpected(std::move(*f));
  return out;
}

}  // namespace

Result<std::vector<Onset>> detectOnsets(const std::vector<GuideSignal>& signals, int recordedRate, Progress& progress) {
  if (signals.empty()) return std::vector<Onset>{};
  auto listened = listenToAll(signals, recordedRate, progress);
  if (!listened) return tl::unexpected(listened.error());
  if (progress.cancelled()) return cancelledError();
  constexpr int rate = kListeningRate;
  auto& mics = *listened;
  believeTogether(mics, rate);
  const BetweenMics between(mics, rate);
  std::vector<MicStroke> all;
  for (const auto& m : mics)
    for (const auto& s : m.strokes)
      if (m.guide && s.claim() >= kLeastClaim) all.push_back(s);
  std::stable_sort(all.begin(), all.end(), [](auto& a, auto& b) { return a.at < b.at; });
  // What counts makes the hits; weaker attacks are heard along with them, or are hits of their own at a higher
  // sensitivity.
  std::vector<const MicStroke*> counting;
  std::vector<const MicStroke*> weak;
  for (const auto& s : all) (s.claim() >= kCounts ? counting : weak).push_back(&s);
  const auto chains = chainsOf(counting, rate);
  std::vector<StrokeChain> close;
  close.reserve(chains.size());
  for (const auto& chain : chains) close.push_back(closeOf(chain, rate));
  const StruckAlong along(between, close, rate);
  std::vector<Onset> out;
  out.reserve(chains.size());
  for (const auto& chain : chains) out.push_back(hitFrom(chain, between, along, rate));
  const auto reach = Frames{static_cast<std::int64_t>(kOneHitSeconds * rate)};
  const auto hits = out;
  for (const auto& chain : chainsOf(weak, rate)) {
    auto weaker = hitFrom(chain, between, along, rate);
    const auto next = std::lower_bound(hits.begin(), hits.end(), weaker.at, [](auto& o, Frames f) { return o.at < f; });
    const bool beside = (next != hits.end() && next->at - weaker.at <= reach) ||
                        (next != hits.begin() && weaker.at - std::prev(next)->at <= reach);
    if (!beside) out.push_back(std::move(weaker));
  }
  for (auto& o : out) {
    o.at = atRate(o.at, rate, recordedRate);
    for (auto& s : o.strokes) s.at = atRate(s.at, rate, recordedRate);
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.at < b.at; });
  progress.report(1.0);
  return out;
}

}  // namespace ochron

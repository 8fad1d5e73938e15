#include "checks/tempo_checks.h"

#include <algorithm>
#include <cmath>

#include "base/numbers.h"

namespace ochron {
namespace {

constexpr double kMeantMs = 60;
constexpr double kOffMs = 10;
constexpr double kTiedMs = 3;  // an anchor so near to a hit was tied to it
constexpr std::size_t kFewestEmptyBars = 2;
constexpr double kJump = 0.12;  // change of tempo from one anchor to the next

}  // namespace

std::optional<Frames> hitOfAnchor(const TempoAnchor& anchor, const std::vector<Frames>& hits, int rate) {
  const auto after = std::lower_bound(hits.begin(), hits.end(), anchor.frame);
  std::optional<Frames> best;
  const auto away = [&](Frames f) { return std::abs((f - anchor.frame).value); };
  for (auto h = after == hits.begin() ? after : after - 1; h != hits.end() && h <= after; ++h)
    if (away(*h) < framesFromMs(kMeantMs, rate).value && (!best || away(*h) < away(*best))) best = *h;
  return best;
}

std::optional<std::pair<Frames, Frames>> hitsAround(const TempoAnchor& anchor, const std::vector<Frames>& hits,
                                                    int rate) {
  const auto after = std::lower_bound(hits.begin(), hits.end(), anchor.frame);
  if (after == hits.begin() || after == hits.end()) return std::nullopt;
  const auto away = [&](Frames f) { return msFromFrames(Frames{std::abs((f - anchor.frame).value)}, rate); };
  auto near = *(after - 1);
  auto far = *after;
  if (away(far) < away(near)) std::swap(near, far);
  if (away(near) < kTiedMs || away(far) > kMeantMs || away(far) > 2 * away(near)) return std::nullopt;
  return std::pair{near, far};
}

namespace {

/// How many bars from anchor to anchor nothing was played in, from anchor `i` on.
std::size_t emptyBars(const TempoAnchors& anchors, std::size_t i, const std::vector<Frames>& hits, int rate) {
  const Frames meant{framesFromMs(kMeantMs, rate)};
  std::size_t n = 0;
  for (; i + n + 1 < anchors.size(); ++n) {
    const auto first = std::lower_bound(hits.begin(), hits.end(), anchors[i + n].frame + meant);
    const bool played = first != hits.end() && *first < anchors[i + n + 1].frame + meant;
    if (played) break;
  }
  return n;
}

}  // namespace

std::vector<Frames> placesOfHits(const std::map<SetId, TimingResult>& timing) {
  std::vector<Frames> out;
  for (const auto& [set, planned] : timing)
    for (const auto& h : planned.hits) out.push_back(h.now);
  std::sort(out.begin(), out.end());
  return out;
}

namespace {

/// What was heard of the song's tempo without being sure.
void doubts(const Song& song, std::vector<Check>& out) {
  const auto& d = *song.tempoDoubt;
  const auto add = [&](CheckKind kind, double sure, std::string title, std::string detail) {
    if (sure >= kTempoSure || song.acceptedTempo.contains({kind, Ticks{}})) return;
    Check check{kind, {}, {}, {}, song.tempo.origin(), 0.95 - 0.5 * sure, std::move(title), std::move(detail)};
    check.bar = Ticks{};
    out.push_back(std::move(check));
  };
  const auto percent = [](double sure) { return fixed(100 * sure, 0) + " % sure"; };
  add(CheckKind::unsureTempo, d.beat, "tempo unsure",
      percent(d.beat) + (d.otherBpm > 0 ? "; it may be " + fixed(d.otherBpm, 2) + " BPM" : ""));
  add(CheckKind::unsureBars, d.bars, "bar 1 unsure",
      percent(d.bars) +
          (d.otherBar ? "; it may lie " +
                            fixed(std::abs(msFromFrames(*d.otherBar - song.tempo.origin(), song.rate)) / 1000, 3) +
                            (*d.otherBar > song.tempo.origin() ? " s later" : " s earlier")
                      : ""));
}

}  // namespace

std::vector<Check> tempoChecksOf(const Song& song, const std::map<SetId, TimingResult>& timing) {
  std::vector<Check> out;
  const auto& anchors = *song.anchors;
  if (song.tempoDoubt) doubts(song, out);
  const auto add = [&](CheckKind kind, const TempoAnchor& a, double risk, std::string title, std::string detail) {
    if (song.acceptedTempo.contains({kind, a.at})) return;
    Check check{kind, {}, {}, {}, a.frame, risk, std::move(title), std::move(detail)};
    check.bar = a.at;
    out.push_back(std::move(check));
  };
  const auto hits = placesOfHits(timing);
  const auto bpmBetween = [&](const TempoAnchor& a, const TempoAnchor& b) {
    return static_cast<double>((b.at - a.at).value) / kTicksPerQuarter * 60 * song.rate /
           static_cast<double>((b.frame - a.frame).value);
  };
  std::size_t carried = 0;  // anchors up to this one were carried on
  for (std::size_t i = 0; i < anchors.size(); ++i) {
    if (const auto n = i < carried || hits.empty() ? 0 : emptyBars(anchors, i, hits, song.rate);
        n >= kFewestEmptyBars) {
      carried = i + n;
      add(CheckKind::carriedOn, anchors[i + 1], 0.32 + std::min(0.3, 0.03 * static_cast<double>(n)), "carried on",
          std::to_string(n) + " bars in which nothing is played: where they begin is a guess");
    }
    if (const auto both = hitsAround(anchors[i], hits, song.rate)) {
      const auto ms = [&](Frames f) { return fixed(std::abs(msFromFrames(f - anchors[i].frame, song.rate)), 0); };
      add(CheckKind::anchorTwoWays, anchors[i], 0.45, "two attacks near this bar",
          ms(std::min(both->first, both->second)) + " ms before it and " + ms(std::max(both->first, both->second)) +
              " ms after it: which one is the bar?");
    } else if (const auto hit = hitOfAnchor(anchors[i], hits, song.rate)) {
      const double ms = msFromFrames(anchors[i].frame - *hit, song.rate);
      if (std::abs(ms) > kOffMs)
        add(CheckKind::anchorOff, anchors[i], 0.3 + std::abs(ms) / 200, "anchor beside its hit",
            fixed(std::abs(ms), 0) + (ms > 0 ? " ms after it" : " ms before it"));
    }
    if (i == 0 || i + 1 >= anchors.size()) continue;
    const double before = bpmBetween(anchors[i - 1], anchors[i]);
    const double after = bpmBetween(anchors[i], anchors[i + 1]);
    if (std::abs(after / before - 1) > kJump)
      add(CheckKind::tempoJump, anchors[i], 0.35 + std::min(0.5, std::abs(after / before - 1)), "tempo jumps",
          "from " + fixed(before, 1) + " to " + fixed(after, 1) + " BPM: a pause, or a beat miscounted?");
  }
  return out;
}

}  // namespace ochron

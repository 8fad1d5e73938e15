#include "checks/tempo_checks.h"

#include <algorithm>
#include <cmath>

#include "base/numbers.h"

namespace ochron {
namespace {

constexpr double kMeantMs = 60;
constexpr double kOffMs = 10;
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

std::vector<Frames> placesOfHits(const std::map<SetId, TimingResult>& timing) {
  std::vector<Frames> out;
  for (const auto& [set, planned] : timing)
    for (const auto& h : planned.hits) out.push_back(h.now);
  std::sort(out.begin(), out.end());
  return out;
}

std::vector<Check> tempoChecksOf(const Song& song, const std::map<SetId, TimingResult>& timing) {
  std::vector<Check> out;
  const auto& anchors = *song.anchors;
  if (anchors.empty()) return out;
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
  for (std::size_t i = 0; i < anchors.size(); ++i) {
    if (const auto hit = hitOfAnchor(anchors[i], hits, song.rate)) {
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

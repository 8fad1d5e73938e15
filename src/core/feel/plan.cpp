#include "feel/plan.h"

#include <algorithm>
#include <cmath>
#include <functional>

#include "feel/assign.h"
#include "song/edits.h"

namespace ochron {
namespace {

constexpr double kAlwaysOneGestureMs = 12;    // two drums struck together
constexpr double kGraceRatio = 0.75;          // a grace note is at most this strong against its main stroke
constexpr double kLargestGestureSteps = 0.4;  // further apart they are strokes of their own

double toMs(Frames f, int rate) { return static_cast<double>(f.value) * 1000.0 / rate; }
Frames fromMs(double ms, int rate) { return Frames{std::llround(ms * rate / 1000.0)}; }

std::vector<PlannedHit> collect(const Song& song, const MicSet& set, const ClipList& clips) {
  std::vector<PlannedHit> out;
  std::map<TakeId, HitList> active;
  for (const auto& clip : clips) {
    auto found = active.find(clip.take);
    if (found == active.end())
      found = active.emplace(clip.take, activeHits(*song.hitsOf(clip.take, set.id), set.hits, song.rate)).first;
    const auto& hits = found->second;
    auto h = std::lower_bound(hits.begin(), hits.end(), clip.source, [](const Hit& x, Frames f) { return x.at < f; });
    for (; h != hits.end() && h->at < clip.source + clip.length; ++h) {
      PlannedHit p;
      p.hit = *h;
      p.take = clip.take;
      p.clip = clip.id;
      p.home = h->at + clip.shift();
      out.push_back(p);
    }
  }
  return out;
}

void applyExclusions(const TimingPlan& plan, std::vector<PlannedHit>& hits) {
  for (auto& p : hits) {
    const auto found = plan.overrides.find(p.hit.id);
    if (found != plan.overrides.end()) p.out = found->second.out;
    for (const auto& gap : plan.gaps) p.inGap = p.inGap || (gap.take == p.take && gap.range.contains(p.hit.at));
    p.out = p.out || p.inGap;
  }
}

bool oneGesture(const TimingPlan& plan, const PlannedHit& a, const PlannedHit& b, double stepMs, int rate) {
  const auto found = plan.overrides.find(b.hit.id);
  if (found != plan.overrides.end() && found->second.joined) return *found->second.joined;
  if (a.clip != b.clip || a.out != b.out) return false;
  const double gap = toMs(b.home - a.home, rate);
  if (gap > std::min(plan.settings.gestureMs, kLargestGestureSteps * stepMs)) return false;
  const double ratio =
      std::min(a.hit.strength, b.hit.strength) / std::max(1e-6, std::max(a.hit.strength, b.hit.strength));
  return gap <= std::min(kAlwaysOneGestureMs, plan.settings.gestureMs) || ratio <= kGraceRatio;
}

struct Gesture {
  std::size_t first = 0;
  std::size_t last = 0;  // inclusive
  std::size_t leader = 0;
};

std::vector<Gesture> gesturesOf(const Song& song, const TimingPlan& plan, std::vector<PlannedHit>& hits) {
  std::vector<Gesture> out;
  for (std::size_t i = 0; i < hits.size();) {
    Gesture g{i, i, i};
    const double bpm = song.tempo.bpmAt(song.tempo.toTicks(hits[i].home));
    const double stepMs =
        static_cast<double>(plan.settings.grid.step().value) / static_cast<double>(kTicksPerQuarter) * 60'000.0 / bpm;
    while (g.last + 1 < hits.size() && oneGesture(plan, hits[g.last], hits[g.last + 1], stepMs, song.rate) &&
           (toMs(hits[g.last + 1].home - hits[g.first].home, song.rate) <= 2 * plan.settings.gestureMs))
      ++g.last;
    for (auto k = g.first; k <= g.last; ++k)
      if (hits[k].hit.strength > hits[g.leader].hit.strength) g.leader = k;
    for (auto k = g.first; k <= g.last; ++k) hits[k].leader = g.leader;
    out.push_back(g);
    i = g.last + 1;
  }
  return out;
}

void placeOnGrid(const Song& song, const TimingPlan& plan, const std::vector<Gesture>& gestures,
                 std::vector<PlannedHit>& hits) {
  std::vector<Stroke> strokes;
  std::vector<std::size_t> members;
  for (std::size_t g = 0; g < gestures.size(); ++g) {
    const auto& lead = hits[gestures[g].leader];
    if (lead.out) continue;
    strokes.push_back({lead.home, lead.hit.strength});
    members.push_back(g);
  }
  if (strokes.empty()) return;
  const auto margin = plan.settings.grid.step() * 4;
  const auto lines = gridLines(song.tempo, plan.settings.grid, song.tempo.toTicks(strokes.front().at) - margin,
                               song.tempo.toTicks(strokes.back().at) + margin);
  const auto places = assignToGrid(strokes, lines);
  for (std::size_t i = 0; i < strokes.size(); ++i) {
    auto& lead = hits[gestures[members[i]].leader];
    if (places[i]) lead.line = lines[*places[i]];
    lead.unplaced = !places[i];
  }
  for (auto& p : hits) {
    const auto found = plan.overrides.find(p.hit.id);
    if (found == plan.overrides.end() || !found->second.target) continue;
    auto line = nearestLine(song.tempo, plan.settings.grid, *found->second.target);
    line.at = *found->second.target;
    line.frame = song.tempo.toFrames(line.at);
    p.line = line;
    p.unplaced = false;
  }
}

double grooveMs(const TimingSettings& s, const TempoMap& map, const GridLine& line) {
  if (!s.groove || s.groove->offsetsMs.empty()) return 0;
  const auto& g = *s.groove;
  const auto into = (line.at - map.barStart(line.bar)).value % g.meter.barLength().value;
  const auto step = g.grid.step().value;
  const auto place = static_cast<std::size_t>((into + step / 2) / step);
  if (into % step > step / 8 && into % step < step - step / 8) return 0;  // the groove knows nothing of this place
  return g.offsetsMs[place % g.offsetsMs.size()] * s.grooveAmount / 100.0;
}

void decideMove(const Song& song, const TimingPlan& plan, PlannedHit& p) {
  const auto& s = plan.settings;
  const auto found = plan.overrides.find(p.hit.id);
  const bool targeted = found != plan.overrides.end() && found->second.target.has_value();
  if (found != plan.overrides.end() && found->second.frozen) {
    p.byHand = true;
  } else if (targeted) {
    p.byHand = true;
    p.move = p.line->frame - p.home;
  } else if (std::abs(p.beforeMs) > s.toleranceMs || s.toleranceMs <= 0) {
    const double kept = (s.keepDrift * p.driftMs + s.keepPocket * p.pocketMs + s.keepScatter * p.scatterMs) / 100.0 +
                        grooveMs(s, song.tempo, *p.line);
    double moveMs = (kept - p.beforeMs) * s.strength / 100.0;
    if (s.largestMoveMs > 0 && std::abs(moveMs) > s.largestMoveMs) {
      moveMs = std::copysign(s.largestMoveMs, moveMs);
      p.limited = true;
    }
    p.move = fromMs(moveMs, song.rate);
  }
  p.afterMs = p.beforeMs + toMs(p.move, song.rate);
}

void splitAndMove(const Song& song, const TimingPlan& plan, std::vector<PlannedHit>& hits) {
  std::vector<Placement> placements;
  std::vector<std::size_t> members;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    auto& p = hits[i];
    if (p.leader != i || !p.line) continue;
    p.beforeMs = toMs(p.home - p.line->frame, song.rate);
    const double into = static_cast<double>((p.line->at - song.tempo.barStart(p.line->bar)).value);
    const double length = static_cast<double>(song.tempo.meterOfBar(p.line->bar).barLength().value);
    placements.push_back({p.line->bar + into / length, p.line->place, static_cast<int>(p.hit.drum), p.beforeMs});
    members.push_back(i);
  }
  const auto split = splitFeel(placements, plan.settings.driftBars);
  for (std::size_t k = 0; k < members.size(); ++k) {
    auto& p = hits[members[k]];
    p.driftMs = split.driftMs[k], p.pocketMs = split.pocketMs[k], p.scatterMs = split.scatterMs[k];
    decideMove(song, plan, p);
  }
}

/// A later hit never overtakes an earlier one, whatever was dragged where.
void keepOrder(std::vector<PlannedHit>& hits, const std::vector<Gesture>& gestures, int rate) {
  const auto apart = fromMs(1.0, rate);
  Frames end{INT64_MIN / 2};
  ClipId clip;
  for (const auto& g : gestures) {
    auto& lead = hits[g.leader];
    auto& opener = hits[g.first];
    if (!opener.opensSlice) continue;
    if (lead.clip == clip && opener.home + lead.move < end + apart) {
      lead.move = end + apart - opener.home;
      lead.limited = true;
      if (lead.line) lead.afterMs = lead.beforeMs + toMs(lead.move, rate);
    }
    clip = lead.clip;
    end = hits[g.last].home + lead.move;
  }
}

}  // namespace

TimingResult planTiming(const Song& song, SetId id) {
  TimingResult result;
  const auto* set = song.find(id);
  if (!set) return result;
  const auto& plan = *set->plan;
  auto& hits = result.hits;
  hits = collect(song, *set, withoutPlan(*set->clips));
  applyExclusions(plan, hits);
  const auto gestures = gesturesOf(song, plan, hits);
  placeOnGrid(song, plan, gestures, hits);
  splitAndMove(song, plan, hits);
  for (const auto& g : gestures) {
    const auto& lead = hits[g.leader];
    hits[g.first].opensSlice = lead.inGap || (!lead.out && !lead.unplaced);
  }
  keepOrder(hits, gestures, song.rate);
  // The rest of a gesture goes with its leader; a hit without a place goes with the piece before.
  Frames carried;
  ClipId clip;
  for (const auto& g : gestures) {
    auto& lead = hits[g.leader];
    if (lead.clip != clip) carried = {};
    clip = lead.clip;
    if ((lead.unplaced || lead.out) && !lead.inGap) lead.move = carried;
    carried = lead.move;
    for (auto k = g.first; k <= g.last; ++k) {
      if (k == g.leader) continue;
      auto& p = hits[k];
      p.move = lead.move, p.line = lead.line, p.unplaced = lead.unplaced;
      p.beforeMs = lead.line ? toMs(p.home - lead.line->frame, song.rate) : 0;
      p.afterMs = lead.line ? toMs(p.to() - lead.line->frame, song.rate) : 0;
      p.driftMs = lead.driftMs, p.pocketMs = lead.pocketMs, p.scatterMs = lead.scatterMs;
    }
  }
  return result;
}

namespace {
template <class Pick>
TimingStats gather(const std::vector<PlannedHit>& hits, Pick pick) {
  TimingStats s;
  double before2 = 0;
  double after2 = 0;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& p = hits[i];
    if (p.leader != i || !p.line || !pick(p)) continue;
    ++s.count;
    s.meanBeforeMs += p.beforeMs, s.meanAfterMs += p.afterMs;
    before2 += p.beforeMs * p.beforeMs, after2 += p.afterMs * p.afterMs;
  }
  if (s.count == 0) return s;
  s.meanBeforeMs /= s.count, s.meanAfterMs /= s.count;
  s.spreadBeforeMs = std::sqrt(std::max(0.0, before2 / s.count - s.meanBeforeMs * s.meanBeforeMs));
  s.spreadAfterMs = std::sqrt(std::max(0.0, after2 / s.count - s.meanAfterMs * s.meanAfterMs));
  return s;
}
}  // namespace

TimingStats TimingResult::stats() const {
  return gather(hits, [](const PlannedHit&) { return true; });
}
TimingStats TimingResult::statsOf(DrumClass drum) const {
  return gather(hits, [&](const PlannedHit& p) { return p.hit.drum == drum; });
}

std::vector<std::optional<double>> TimingResult::pocketProfile() const {
  std::vector<std::pair<double, int>> sums;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& p = hits[i];
    if (p.leader != i || !p.line || p.line->place < 0) continue;
    const auto place = static_cast<std::size_t>(p.line->place);
    if (sums.size() <= place) sums.resize(place + 1);
    sums[place].first += p.pocketMs;
    ++sums[place].second;
  }
  std::vector<std::optional<double>> out(sums.size());
  for (std::size_t i = 0; i < sums.size(); ++i)
    if (sums[i].second > 0) out[i] = sums[i].first / sums[i].second;
  return out;
}

}  // namespace ochron

#include "feel/plan_timing.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "edits/pieces.h"
#include "feel/assign.h"
#include "feel/given_feel.h"

namespace ochron {
namespace {

constexpr double kAlwaysOneGestureMs = 12;    // two drums struck together
constexpr double kGraceRatio = 0.75;          // a grace note is at most this strong against its main stroke
constexpr std::size_t kMostGrids = 32;        // of one plan; what goes beyond uses the first
constexpr double kLargestGestureSteps = 0.4;  // further apart they are strokes of their own

std::vector<PlannedHit> collect(const Song& song, const MicSet& set, const ClipList& clips) {
  std::vector<PlannedHit> out;
  std::map<TakeId, HitList> active;
  for (const auto& clip : clips) {
    if (clip.reversed || !clip.extras->ofItsTake()) continue;  // its strokes are not this set's, or no strokes
    auto found = active.find(clip.take);
    if (found == active.end())
      found = active.emplace(clip.take, activeHits(*song.hitsOf(clip.take, set.id), set.hits, song.rate)).first;
    const auto& hits = found->second;
    const auto played = clip.played();
    auto h = std::lower_bound(hits.begin(), hits.end(), played.start, [](const Hit& x, Frames f) { return x.at < f; });
    for (; h != hits.end() && h->at < played.end; ++h) {
      PlannedHit p;
      p.hit = *h;
      p.take = clip.take;
      p.clip = clip.id;
      p.home = clip.toSong(h->at);
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
    const auto& classes = plan.settings.classes;
    const bool meant = classes.empty() || std::find(classes.begin(), classes.end(), p.hit.drum) != classes.end();
    p.out = p.out || p.inGap || !meant;
  }
}

const Grid& gridOf(const Song& song, const TimingPlan& plan, const PlannedHit& p) {
  if (plan.settings.gridRules.empty()) return plan.settings.grid;
  return plan.settings.gridFor(p.hit.drum, song.tempo.toTicks(p.home));
}

double stepFrames(const Song& song, const Grid& grid, Frames at) {
  const double bpm = song.tempo.bpmAt(song.tempo.toTicks(at));
  return static_cast<double>(grid.step().value) / static_cast<double>(kTicksPerQuarter) * 60.0 / bpm * song.rate;
}

/// What the user said about a hit and the one before.
std::optional<bool> joinedByHand(const TimingPlan& plan, const PlannedHit& b) {
  const auto found = plan.overrides.find(b.hit.id);
  return found == plan.overrides.end() ? std::nullopt : found->second.joined;
}

bool oneGesture(const TimingPlan& plan, const PlannedHit& a, const PlannedHit& b, double stepMs, int rate,
                bool sameGrid) {
  if (a.clip != b.clip || a.out != b.out) return false;
  const double gap = msFromFrames(b.home - a.home, rate);
  if (gap > std::min(plan.settings.gestureMs, kLargestGestureSteps * stepMs)) return false;
  const double ratio =
      std::min(a.hit.strength, b.hit.strength) / std::max(1e-6, std::max(a.hit.strength, b.hit.strength));
  return gap <= std::min(kAlwaysOneGestureMs, plan.settings.gestureMs) || (sameGrid && ratio <= kGraceRatio);
}

struct Gesture {
  std::size_t first = 0;
  std::size_t last = 0;  // inclusive
  std::size_t leader = 0;
};

std::vector<Gesture> gesturesOf(const Song& song, const TimingPlan& plan, std::vector<PlannedHit>& hits) {
  std::vector<Gesture> out;
  const auto belongs = [&](const Gesture& g, const PlannedHit& next, double stepMs, const Grid& grid) {
    if (const auto said = joinedByHand(plan, next)) return *said && next.clip == hits[g.first].clip;
    return oneGesture(plan, hits[g.last], next, stepMs, song.rate, gridOf(song, plan, next) == grid) &&
           msFromFrames(next.home - hits[g.first].home, song.rate) <= 2 * plan.settings.gestureMs;
  };
  for (std::size_t i = 0; i < hits.size();) {
    Gesture g{i, i, i};
    const auto& grid = gridOf(song, plan, hits[i]);
    const double stepMs = stepFrames(song, grid, hits[i].home) * 1000.0 / song.rate;
    while (g.last + 1 < hits.size() && belongs(g, hits[g.last + 1], stepMs, grid)) ++g.last;
    for (auto k = g.first; k <= g.last; ++k)
      if (hits[k].hit.strength > hits[g.leader].hit.strength) g.leader = k;
    for (auto k = g.first; k <= g.last; ++k) hits[k].leader = g.leader;
    out.push_back(g);
    i = g.last + 1;
  }
  return out;
}

/// Lines of several grids as one list of places, with the line each grid has there.
struct Places {
  std::vector<GridPlace> places;
  std::vector<std::vector<std::pair<int, GridLine>>> lines;  // for each place: grid and line

  const GridLine& line(std::size_t place, int grid) const {
    const auto& all = lines[place];
    return std::find_if(all.begin(), all.end(), [&](auto& l) { return l.first == grid; })->second;
  }
};

/// The lines around the strokes alone: what lies hours apart costs nothing in between.
Places placesOf(const Song& song, const std::vector<Grid>& grids, const std::vector<Stroke>& strokes) {
  constexpr int kAround = 4;  // steps
  Ticks longest;
  for (const auto& g : grids) longest = std::max(longest, g.step());
  std::vector<std::pair<Ticks, Ticks>> stretches;
  for (const auto& s : strokes) {
    const auto at = song.tempo.toTicks(s.at);
    if (stretches.empty() || at - stretches.back().second > longest * (4 * kAround))
      stretches.emplace_back(at, at);
    else
      stretches.back().second = std::max(stretches.back().second, at);
  }
  std::vector<std::pair<int, GridLine>> all;
  for (std::size_t g = 0; g < grids.size(); ++g)
    for (const auto& [from, to] : stretches)
      for (const auto& line :
           gridLines(song.tempo, grids[g], from - grids[g].step() * kAround, to + grids[g].step() * kAround))
        all.emplace_back(static_cast<int>(g), line);
  std::stable_sort(all.begin(), all.end(), [](auto& a, auto& b) { return a.second.frame < b.second.frame; });
  Places out;
  for (const auto& [grid, line] : all) {
    if (out.places.empty() || out.places.back().frame != line.frame) {
      out.places.push_back({line.frame, 0});
      out.lines.emplace_back();
    }
    out.places.back().grids |= 1u << grid;
    out.lines.back().emplace_back(grid, line);
  }
  return out;
}

void placeOnGrid(const Song& song, const TimingPlan& plan, const std::vector<Gesture>& gestures,
                 std::vector<PlannedHit>& hits, TimingMemory& memory) {
  std::vector<Stroke> strokes;
  std::vector<std::size_t> members;
  std::vector<Grid> grids;
  for (std::size_t g = 0; g < gestures.size(); ++g) {
    const auto& lead = hits[gestures[g].leader];
    if (lead.out) continue;
    const auto& grid = gridOf(song, plan, lead);
    auto known = std::find(grids.begin(), grids.end(), grid);
    if (known == grids.end() && grids.size() < kMostGrids) known = grids.insert(known, grid);
    if (known == grids.end()) known = grids.begin();
    strokes.push_back(
        {lead.home, lead.hit.strength, stepFrames(song, *known, lead.home), static_cast<int>(known - grids.begin())});
    members.push_back(g);
  }
  if (strokes.empty()) return;
  const auto places = placesOf(song, grids, strokes);
  if (strokes != memory.strokes || places.places != memory.places) {
    memory.taken = assignToGrid(strokes, places.places);
    memory.strokes = strokes;
    memory.places = places.places;
  }
  const auto& taken = memory.taken;
  for (std::size_t i = 0; i < strokes.size(); ++i) {
    auto& lead = hits[gestures[members[i]].leader];
    if (taken[i]) lead.line = places.line(*taken[i], strokes[i].grid);
    lead.unplaced = !taken[i];
  }
  for (auto& p : hits) {
    const auto found = plan.overrides.find(p.hit.id);
    if (found == plan.overrides.end() || !found->second.target) continue;
    p.line = nearestLine(song.tempo, gridOf(song, plan, p), *found->second.target);
    p.target = song.tempo.toFrames(*found->second.target);
    p.unplaced = false;
  }
}

void decideMove(const Song& song, const TimingPlan& plan, PlannedHit& p) {
  const auto& s = plan.settings;
  const auto found = plan.overrides.find(p.hit.id);
  if (found != plan.overrides.end() && found->second.frozen) {
    p.byHand = true;
  } else if (p.target) {
    p.byHand = true;
    p.move = *p.target - p.home;
  } else if (std::abs(p.beforeMs) > s.toleranceMs || s.toleranceMs <= 0) {
    const double kept = (s.keepDrift * p.driftMs + s.keepPocket * p.pocketMs + s.keepScatter * p.scatterMs) / 100.0 +
                        grooveMs(s, song.tempo, *p.line);
    double moveMs = (kept - p.beforeMs) * s.strength / 100.0 + givenScatterMs(s, song.tempo, *p.line, p.hit.drum);
    if (s.largestMoveMs > 0 && std::abs(moveMs) > s.largestMoveMs) {
      moveMs = std::copysign(s.largestMoveMs, moveMs);
      p.limited = true;
    }
    p.move = framesFromMs(moveMs, song.rate);
  }
  p.afterMs = p.beforeMs + msFromFrames(p.move, song.rate);
}

void splitAndMove(const Song& song, const TimingPlan& plan, std::vector<PlannedHit>& hits, TimingMemory& memory) {
  std::vector<Placement> placements;
  std::vector<std::size_t> members;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    auto& p = hits[i];
    if (p.leader != i || !p.line) continue;
    p.beforeMs = msFromFrames(p.home - p.line->frame, song.rate);
    p.inBar = p.line->at - song.tempo.barStart(p.line->bar);
    const auto length = static_cast<double>(song.tempo.meterOfBar(p.line->bar).barLength().value);
    placements.push_back({p.line->bar + static_cast<double>(p.inBar.value) / length, static_cast<int>(p.inBar.value),
                          static_cast<int>(p.hit.drum), p.beforeMs});
    members.push_back(i);
  }
  if (placements != memory.placements || plan.settings.driftBars != memory.driftBars) {
    memory.split = splitFeel(placements, plan.settings.driftBars);
    memory.placements = std::move(placements);
    memory.driftBars = plan.settings.driftBars;
  }
  const auto& split = memory.split;
  for (std::size_t k = 0; k < members.size(); ++k) {
    auto& p = hits[members[k]];
    p.driftMs = split.driftMs[k];
    p.pocketMs = split.pocketMs[k];
    p.scatterMs = split.scatterMs[k];
    decideMove(song, plan, p);
  }
}

/// A later hit never overtakes an earlier one, whatever was dragged where.
void keepOrder(std::vector<PlannedHit>& hits, const std::vector<Gesture>& gestures, int rate) {
  const auto apart = framesFromMs(1.0, rate);
  Frames end{INT64_MIN / 2};
  ClipId clip;
  for (const auto& g : gestures) {
    auto& lead = hits[g.leader];
    auto& opener = hits[g.first];
    if (!opener.opensSlice) continue;
    if (lead.clip == clip && opener.home + lead.move < end + apart) {
      lead.move = end + apart - opener.home;
      lead.limited = true;
      if (lead.line) lead.afterMs = lead.beforeMs + msFromFrames(lead.move, rate);
    }
    clip = lead.clip;
    end = hits[g.last].home + lead.move;
  }
}

/// The clips of each take by what they play of it: which of them play a place is found without asking all.
class ClipsByTake {
 public:
  explicit ClipsByTake(const ClipList& clips) {
    for (const auto& c : clips) {
      if (c.reversed) continue;
      auto& list = takes_[c.take];
      list.all.push_back(&c);
      list.longest = std::max(list.longest, c.played().length());
    }
    for (auto& [take, list] : takes_)
      std::stable_sort(list.all.begin(), list.all.end(),
                       [](const Clip* a, const Clip* b) { return a->played().start < b->played().start; });
  }
  template <class Visit>
  void playing(TakeId take, Frames at, const Visit& visit) const {
    const auto found = takes_.find(take);
    if (found == takes_.end()) return;
    const auto& [all, longest] = found->second;
    const auto starts = [](const Clip* c, Frames f) { return c->played().start < f; };
    for (auto c = std::lower_bound(all.begin(), all.end(), at - longest, starts);
         c != all.end() && (*c)->played().start <= at; ++c)
      visit(**c);
  }

 private:
  struct List {
    std::vector<const Clip*> all;
    Frames longest;
  };
  std::map<TakeId, List> takes_;
};

/// Hits in locked ranges stand where they stand now.
void holdLocked(const MicSet& set, std::vector<PlannedHit>& hits, int rate) {
  if (set.locks.empty()) return;
  const ClipsByTake clips(*set.clips);
  for (auto& h : hits)
    clips.playing(h.take, h.hit.at, [&](const Clip& c) {
      const auto at = c.toSong(h.hit.at);
      if (!c.range().contains(at) ||
          std::none_of(set.locks.begin(), set.locks.end(), [&](auto& l) { return l.contains(at); }))
        return;
      h.now = at;
      h.move = at - h.home;
      h.locked = true;
      if (h.line) h.afterMs = h.beforeMs + msFromFrames(h.move, rate);
    });
}

}  // namespace

TimingResult planTiming(const Song& song, SetId id) {
  TimingMemory none;
  return planTiming(song, id, none);
}

TimingResult planTiming(const Song& song, SetId id, TimingMemory& memory) {
  TimingResult result;
  const auto* set = song.find(id);
  if (!set) return result;
  const auto& plan = *set->plan;
  auto& hits = result.hits;
  hits = collect(song, *set, withoutPlan(*set->clips));
  applyExclusions(plan, hits);
  const auto gestures = gesturesOf(song, plan, hits);
  placeOnGrid(song, plan, gestures, hits, memory);
  splitAndMove(song, plan, hits, memory);
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
      p.move = lead.move;
      p.line = lead.line;
      p.inBar = lead.inBar;
      p.unplaced = lead.unplaced;
      p.beforeMs = lead.line ? msFromFrames(p.home - lead.line->frame, song.rate) : 0;
      p.afterMs = lead.line ? msFromFrames(p.to() - lead.line->frame, song.rate) : 0;
      p.driftMs = lead.driftMs;
      p.pocketMs = lead.pocketMs;
      p.scatterMs = lead.scatterMs;
    }
  }
  for (auto& h : hits) h.now = plan.settings.on ? h.to() : h.home;
  holdLocked(*set, hits, song.rate);
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
    s.meanBeforeMs += p.beforeMs;
    s.meanAfterMs += p.afterMs;
    before2 += p.beforeMs * p.beforeMs;
    after2 += p.afterMs * p.afterMs;
  }
  if (s.count == 0) return s;
  s.meanBeforeMs /= s.count;
  s.meanAfterMs /= s.count;
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

std::vector<PocketPlace> TimingResult::pocketProfile() const {
  std::map<Ticks, PocketPlace> places;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto& p = hits[i];
    if (p.leader != i || !p.line) continue;
    auto& place = places[p.inBar];
    place.inBar = p.inBar;
    place.meanMs += (p.pocketMs - place.meanMs) / ++place.count;
  }
  std::vector<PocketPlace> out;
  out.reserve(places.size());
  for (const auto& [at, place] : places) out.push_back(place);
  return out;
}

}  // namespace ochron

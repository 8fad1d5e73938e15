#include "edits/note_places.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

Frames framesOf(double seconds, int rate) { return Frames{std::llround(seconds * rate)}; }

/// The nearest of `places` (in order) that is one with `at`; else `at` itself.
Frames nearOne(const std::vector<Frames>& places, Frames at, Frames reach) {
  const auto after = std::lower_bound(places.begin(), places.end(), at);
  Frames best = at;
  Frames least = reach;
  for (auto p = after == places.begin() ? after : after - 1; p != places.end() && p <= after; ++p) {
    const auto away = *p < at ? at - *p : *p - at;
    if (away > least) continue;
    least = away;
    best = *p;
  }
  return best;
}

}  // namespace

NotePlaces::NotePlaces(const Song& song, const MicSet& set, TakeId take) {
  const auto reach = framesFromMs(kOnePlaceMs, song.rate);
  const auto& notes = song.lineOf(take, set.id)->notes;
  std::vector<Frames> hits;
  for (const auto& h : activeHits(*song.hitsOf(take, set.id), set.hits, song.rate)) hits.push_back(reachOf(h).first);
  std::sort(hits.begin(), hits.end());
  for (const auto& n : notes) places_.emplace_back(nearOne(hits, framesOf(n.start, song.rate), reach), Frames{});
  auto marks = hits;
  for (const auto& p : places_) marks.push_back(p.first);
  std::sort(marks.begin(), marks.end());
  for (std::size_t i = 0; i < notes.size(); ++i) {
    const auto end = framesOf(notes[i].end, song.rate);
    const auto near = nearOne(marks, end, reach);
    places_[i].second = near == places_[i].first ? end : near;  // its own beginning is no end
  }
}

std::vector<Frames> NotePlaces::all() const {
  std::vector<Frames> out;
  for (const auto& [start, end] : places_) {
    out.push_back(start);
    out.push_back(end);
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

}  // namespace ochron

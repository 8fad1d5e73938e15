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

/// Hits and the beginnings of notes that are at none, in order.
std::vector<Frames> beginnings(const Song& song, const MicSet& set, TakeId take, std::vector<Frames>& hits) {
  for (const auto& h : activeHits(*song.hitsOf(take, set.id), set.hits, song.rate)) hits.push_back(reachOf(h).first);
  std::sort(hits.begin(), hits.end());
  std::vector<Frames> out;
  const auto reach = framesFromMs(kOnePlaceMs, song.rate);
  for (const auto& n : song.lineOf(take, set.id)->notes)
    out.push_back(nearOne(hits, framesOf(n.start, song.rate), reach));
  return out;
}

}  // namespace

std::pair<Frames, Frames> placesOf(const Song& song, const MicSet& set, TakeId take, std::size_t note) {
  std::vector<Frames> hits;
  auto starts = beginnings(song, set, take, hits);
  const auto start = starts.at(note);
  hits.insert(hits.end(), starts.begin(), starts.end());
  std::sort(hits.begin(), hits.end());
  // Its own beginning is no end.
  std::erase(hits, start);
  const auto end = framesOf(song.lineOf(take, set.id)->notes[note].end, song.rate);
  return {start, nearOne(hits, end, framesFromMs(kOnePlaceMs, song.rate))};
}

std::vector<Frames> notePlaces(const Song& song, const MicSet& set, TakeId take) {
  std::vector<Frames> hits;
  auto out = beginnings(song, set, take, hits);
  hits.insert(hits.end(), out.begin(), out.end());
  std::sort(hits.begin(), hits.end());
  const auto reach = framesFromMs(kOnePlaceMs, song.rate);
  for (const auto& n : song.lineOf(take, set.id)->notes)
    out.push_back(nearOne(hits, framesOf(n.end, song.rate), reach));
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

}  // namespace ochron

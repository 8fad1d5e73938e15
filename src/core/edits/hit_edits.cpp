#include "edits/hit_edits.h"

#include <algorithm>
#include <functional>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

/// Two onsets closer than this are the same one when a new detection meets what the user decided.
constexpr double kSameHitSeconds = 0.012;

tl::unexpected<Error> hitGone() { return fail(ErrorKind::notFound, "This hit is not in the take any more."); }

bool earlier(const Hit& a, const Hit& b) { return a.at < b.at; }

template <class F>
Result<Song> withHits(const Song& song, TakeId takeId, SetId set, F&& change) {
  Song next = song;
  const auto* micSet = song.find(set);
  if (!micSet) return setGone();
  for (auto& take : next.takes) {
    if (take.id != takeId) continue;
    HitList hits = *song.hitsOf(takeId, set);
    if (auto ok = change(next, take, hits); !ok) return tl::unexpected(ok.error());
    std::stable_sort(hits.begin(), hits.end(), earlier);
    auto at = std::find_if(take.facts.begin(), take.facts.end(), [&](auto& h) { return h.set == set; });
    if (at == take.facts.end()) at = take.facts.insert(at, SetFacts{set, {}, {}, {}});
    at->hits = std::move(hits);
    return next;
  }
  return fail(ErrorKind::notFound, "This take is not in the song any more.");
}

}  // namespace

Result<Song> setDetectedHits(const Song& song, TakeId take, SetId set, const HitList& detected,
                             std::optional<double> struck) {
  auto found = withHits(song, take, set, [&](Song& next, Take&, HitList& hits) -> Result<void> {
    HitList merged;
    const auto old = hits;
    const auto near = static_cast<std::int64_t>(kSameHitSeconds * song.rate);
    for (const auto& h : old)
      if (h.origin != HitOrigin::detected) merged.push_back(h);
    const auto decided = merged;
    for (Hit h : detected) {
      const auto close = [&](const Hit& o) { return std::abs((o.at - h.at).value) <= near; };
      if (std::any_of(decided.begin(), decided.end(), close)) continue;
      // The same onset keeps its name, so that what hangs on it (overrides) stays.
      const auto same = std::find_if(old.begin(), old.end(),
                                     [&](const Hit& o) { return o.origin == HitOrigin::detected && o.at == h.at; });
      h.id = same != old.end() ? same->id : next.newId<HitTag>();
      merged.push_back(std::move(h));
    }
    hits = std::move(merged);
    return {};
  });
  if (!found || !struck) return found;
  for (auto& t : found->takes)
    if (t.id == take)
      for (auto& facts : t.facts)
        if (facts.set == set) facts.struck = struck;
  return found;
}

Result<Song> addHit(const Song& song, TakeId takeId, SetId set, Frames at, DrumClass drum) {
  return withHits(song, takeId, set, [&](Song& next, Take& take, HitList& hits) -> Result<void> {
    if (at.value < 0 || at >= take.length) return fail(ErrorKind::refused, "A hit must lie inside its take.");
    if (std::any_of(hits.begin(), hits.end(),
                    [&](const Hit& h) { return h.at == at && h.origin != HitOrigin::removed; }))
      return fail(ErrorKind::refused, "There is a hit on this very frame already.");
    hits.push_back({next.newId<HitTag>(), at, 1.0, 1.0, drum, {}, HitOrigin::user, {}});
    return {};
  });
}

Result<Song> moveHit(const Song& song, TakeId takeId, SetId set, HitId id, Frames to) {
  return withHits(song, takeId, set, [&](Song& next, Take& take, HitList& hits) -> Result<void> {
    auto h = std::find_if(hits.begin(), hits.end(), [&](const Hit& x) { return x.id == id; });
    if (h == hits.end()) return hitGone();
    if (h->origin == HitOrigin::detected) {  // a new detection must not bring the old place back
      Hit old = *h;
      old.id = next.newId<HitTag>();
      old.origin = HitOrigin::removed;
      hits.push_back(old);
      h = std::find_if(hits.begin(), hits.end(), [&](const Hit& x) { return x.id == id; });
      h->foundAt = old.at;
    }
    h->at = std::clamp(to, Frames{0}, take.length - Frames{1});
    if (!h->strokes.empty()) h->strokes.front().at = h->at;
    h->origin = HitOrigin::user;
    h->confidence = 1.0;
    return {};
  });
}

Result<Song> leadHit(const Song& song, TakeId takeId, SetId set, HitId id, std::size_t stroke) {
  const Hit* found = nullptr;
  const auto& list = song.hitsOf(takeId, set);
  for (const auto& h : *list)
    if (h.id == id) found = &h;
  if (!found) return hitGone();
  if (stroke >= found->strokes.size())
    return fail(ErrorKind::refused, "This hit is a single stroke, so nothing else can lead it.");
  auto strokes = found->strokes;
  std::rotate(strokes.begin(), strokes.begin() + static_cast<std::ptrdiff_t>(stroke),
              strokes.begin() + static_cast<std::ptrdiff_t>(stroke) + 1);
  auto moved = moveHit(song, takeId, set, id, strokes.front().at);
  if (!moved) return moved;
  return withHits(*moved, takeId, set, [&](Song&, Take&, HitList& hits) -> Result<void> {
    for (auto& h : hits)
      if (h.id == id) {
        h.strokes = strokes;
        h.drum = strokes.front().drum;
        h.strength = strokes.front().strength;
      }
    return {};
  });
}

Result<Song> restoreHit(const Song& song, TakeId takeId, SetId set, HitId id) {
  return withHits(song, takeId, set, [&](Song&, Take&, HitList& hits) -> Result<void> {
    const auto h = std::find_if(hits.begin(), hits.end(), [&](const Hit& x) { return x.id == id; });
    if (h == hits.end()) return hitGone();
    if (!h->foundAt) return fail(ErrorKind::refused, "This hit stands where it was found, or was placed by hand.");
    const auto found = *h->foundAt;
    h->at = found;
    h->foundAt.reset();
    const auto mark = std::find_if(hits.begin(), hits.end(),
                                   [&](const Hit& x) { return x.origin == HitOrigin::removed && x.at == found; });
    if (mark == hits.end()) return {};
    const auto name = h->id;
    *h = *mark;
    h->id = name;
    h->origin = HitOrigin::detected;
    hits.erase(mark);
    return {};
  });
}

template <class F>
static Result<Song> forEachHit(const Song& song, TakeId take, SetId set, const std::vector<HitId>& ids, F&& change) {
  return withHits(song, take, set, [&](Song&, Take&, HitList& hits) -> Result<void> {
    std::size_t found = 0;
    for (auto& h : hits) {
      if (std::find(ids.begin(), ids.end(), h.id) == ids.end()) continue;
      change(h);
      ++found;
    }
    if (found != ids.size()) return hitGone();
    return {};
  });
}

Result<Song> removeHits(const Song& song, TakeId take, SetId set, const std::vector<HitId>& ids) {
  return forEachHit(song, take, set, ids, [](Hit& h) { h.origin = HitOrigin::removed; });
}

Result<Song> setHitClass(const Song& song, TakeId take, SetId set, const std::vector<HitId>& ids, DrumClass drum) {
  return forEachHit(song, take, set, ids, [&](Hit& h) {
    h.drum = drum;
    h.origin = HitOrigin::user;
    h.confidence = 1;
    if (!h.strokes.empty()) h.strokes.front().drum = drum;
  });
}

}  // namespace ochron

#include "song/song.h"

#include <algorithm>
#include <set>

namespace ochron {
namespace {

template <class Range, class IdType>
auto* findById(Range& range, IdType id) {
  auto it = std::find_if(range.begin(), range.end(), [&](const auto& x) { return x.id == id; });
  return it == range.end() ? nullptr : &*it;
}

}  // namespace

const Media* Song::find(MediaId id) const { return findById(media, id); }
const Take* Song::find(TakeId id) const { return findById(takes, id); }
const Track* Song::find(TrackId id) const { return findById(tracks, id); }
const MicSet* Song::find(SetId id) const { return findById(sets, id); }

const Marker* Song::find(MarkerId id) const { return findById(markers, id); }
const MuteSpan* Song::find(SpanId id) const { return findById(spans, id); }
const Bundle* Song::find(BundleId id) const { return findById(bundles, id); }
const Print* Song::find(PrintId id) const { return findById(prints, id); }
const Pattern* Song::find(PatternId id) const { return findById(patterns, id); }
const Layer* Song::find(LayerId id) const { return findById(layers, id); }

const Layer* Song::layerOn(TrackId track) const {
  const auto it = std::find_if(layers.begin(), layers.end(), [&](const Layer& l) { return l.track == track; });
  return it == layers.end() ? nullptr : &*it;
}

const Clip* Song::find(ClipId id) const {
  for (const auto& s : sets)
    if (const auto* c = findById(*s.clips, id)) return c;
  return nullptr;
}

const MicSet* Song::setOf(ClipId id) const {
  for (const auto& s : sets)
    if (findById(*s.clips, id)) return &s;
  return nullptr;
}

const MicSet* Song::setOf(TrackId id) const {
  for (const auto& s : sets)
    if (std::find(s.tracks.begin(), s.tracks.end(), id) != s.tracks.end()) return &s;
  return nullptr;
}

const TakeMic* Song::micOf(TakeId takeId, TrackId track) const {
  const auto* take = find(takeId);
  if (!take) return nullptr;
  for (const auto& m : take->mics)
    if (m.track == track) return &m;
  return nullptr;
}

const TakeMic* Song::micFor(const MicSet& set, const Clip& clip, TrackId track) const {
  if (const auto& sound = clip.extras->sound) return track == set.tracks.front() ? &*sound : nullptr;
  const auto& played = clip.extras->media;
  if (played.empty()) return micOf(clip.take, track);
  const auto* t = find(clip.take);
  const auto at = std::find(set.tracks.begin(), set.tracks.end(), track) - set.tracks.begin();
  if (!t || at >= std::ssize(played)) return nullptr;
  for (const auto& m : t->mics)
    if (m.media == played[static_cast<std::size_t>(at)]) return &m;
  return nullptr;
}

Frames Song::takeLength(const Clip& clip) const {
  const auto* take = find(clip.take);
  return take ? take->length : clip.played().end;
}

const Shared<HitList>& Song::hitsIn(const MicSet& set, const Clip& clip) const {
  static const Shared<HitList> none;
  if (clip.extras->sound) return none;
  if (!clip.extras->media.empty())
    if (const auto* t = find(clip.take))
      for (const auto& m : t->mics)
        if (m.media == clip.extras->media.front())
          if (const auto* owner = setOf(m.track)) return hitsOf(clip.take, owner->id);
  return hitsOf(clip.take, set.id);
}

const Shared<HitList>& Song::hitsOf(TakeId takeId, SetId set) const {
  static const Shared<HitList> none;
  if (const auto* take = find(takeId))
    for (const auto& h : take->facts)
      if (h.set == set) return h.hits;
  return none;
}

std::optional<Hit> Song::hitAtStart(const MicSet& set, const Clip& clip) const {
  constexpr double kStartsMs = 30;
  const auto played = clip.played();
  const auto hits = activeHits(*hitsIn(set, clip), set.hits, rate, played);
  if (clip.piece && clip.piece->hit)
    for (const auto& h : hits)
      if (h.id == clip.piece->hit) return h;
  if (hits.empty() || hits.front().at >= played.start + framesFromMs(kStartsMs, rate)) return {};
  return hits.front();
}

const Shared<SungLine>& Song::lineOf(TakeId takeId, SetId set) const {
  static const Shared<SungLine> none;
  if (const auto* take = find(takeId))
    for (const auto& f : take->facts)
      if (f.set == set) return f.line;
  return none;
}

namespace {

/// Between what drums and what anything else has (struckShare).
constexpr double kMostStruckSoft = 0.5;

/// Whether its hits say that it is no drum; none when there are none.
std::optional<bool> soundsOn(const Song& song, SetId set, TakeId take) {
  const auto* t = song.find(take);
  if (!t) return {};
  const auto facts = std::find_if(t->facts.begin(), t->facts.end(), [&](const SetFacts& f) { return f.set == set; });
  if (facts == t->facts.end() || !facts->struck) return {};
  return *facts->struck <= kMostStruckSoft;
}

}  // namespace

bool Song::isKit(const MicSet& set, TakeId take) const {
  const auto isDrum = [&](TrackId t) { return find(t)->role != MicRole::none; };
  if (std::any_of(set.tracks.begin(), set.tracks.end(), isDrum)) return true;
  return set.tracks.size() > 2 && !soundsOn(*this, set.id, take).value_or(false);
}

StretchMethod Song::materialOf(const MicSet& set, TakeId take) const {
  if (isKit(set, take)) return StretchMethod::drums;
  if (!lineOf(take, set.id)->notes.empty()) return StretchMethod::single;
  return soundsOn(*this, set.id, take).value_or(false) ? StretchMethod::chords : StretchMethod::drums;
}

StretchMethod Song::methodOf(const MicSet& set, const Clip& clip) const {
  if (clip.extras->method) return *clip.extras->method;
  return set.method ? *set.method : materialOf(set, clip.take);
}

Frames Song::end() const {
  Frames e;
  for (const auto& s : sets)
    if (!s.clips->empty()) e = std::max(e, s.clips->back().end());
  return e;
}

}  // namespace ochron

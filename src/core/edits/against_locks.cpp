#include <algorithm>

#include "edits/edit_tools.h"
#include "edits/locks.h"
#include "song/insert_place.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {

std::string namedRange(const TempoMap& map, FrameRange range) {
  const int first = map.barAt(range.start) + 1;
  const int last = map.barAt(range.end - Frames{1}) + 1;
  return first == last ? "Bar " + std::to_string(first) + " of \""
                       : "Bars " + std::to_string(first) + " to " + std::to_string(last) + " of \"";
}

/// A clip's fades and its joint with the one before, as far as they are heard in a range. A joint at the range's very
/// start belongs to what lies outside, too, and is left out.
struct Edges {
  Frames start, end;
  Fade in, out;
  Seam seam;

  bool operator==(const Edges&) const = default;
};

Edges edgesIn(const Clip& c, FrameRange range) {
  Edges e;
  const bool begins = c.start > range.start;
  const bool ends = c.end() < range.end;
  if (begins) e.seam = c.seam;
  if (begins || (c.start + c.fadeIn.length > range.start && c.fadeIn.length.value > 0))
    e.start = c.start, e.in = c.fadeIn;
  if (ends || (c.end() - c.fadeOut.length < range.end && c.fadeOut.length.value > 0))
    e.end = c.end(), e.out = c.fadeOut;
  return e;
}

/// The pins that say how a map runs over a window of stretched time.
TakeMap courseOf(const TakeMap& map, FrameRange window) {
  if (map.identity()) return map;
  const auto& pins = map.pins();
  auto from =
      std::upper_bound(pins.begin(), pins.end(), window.start, [](Frames f, const Pin& p) { return f < p.stretched; });
  auto to =
      std::lower_bound(pins.begin(), pins.end(), window.end, [](const Pin& p, Frames f) { return p.stretched < f; });
  // Outside its pins a map runs at speed 1: there one of them alone says where.
  if (from != pins.begin()) --from;
  if (to != pins.end()) ++to;
  return TakeMap({from, to});
}

/// What is heard of a clip in a range, but for its edges: what it plays where, with what is done to it.
Clip bodyIn(const Clip& clip, FrameRange range) {
  auto body = partOf(clip, range);
  body.map = courseOf(body.map, body.window());
  body.id = {};
  body.piece.reset();
  body.fadeIn = body.fadeOut = {};
  body.seam = {};
  body.hold = Hold::clock;
  body.bundle = {};
  if (!body.extras->name.empty() || body.extras->colour || body.extras->sync || body.extras->method) {
    ClipExtras heard = *body.extras;
    heard.name.clear();
    heard.colour.reset();
    heard.sync.reset();
    heard.method.reset();  // what it comes to is compared
    body.extras = std::move(heard);
  }
  return body;
}

/// What a bundle does to the sound of its clips.
struct BundleSound {
  double gainDb = 0;
  Fade in, out;
  FrameRange over;  ///< where it fades

  bool operator==(const BundleSound&) const = default;
};

BundleSound soundOf(const Song& song, BundleId id) {
  const auto* b = song.find(id);
  if (!b) return {};
  BundleSound out{b->gainDb, b->fadeIn, b->fadeOut, {}};
  if ((b->fadeIn.length + b->fadeOut.length).value == 0) return out;
  out.over = {Frames{INT64_MAX}, Frames{INT64_MIN}};
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (c.bundle == id) out.over = {std::min(out.over.start, c.start), std::max(out.over.end, c.end())};
  return out;
}

std::vector<const Clip*> clipsIn(const ClipList& clips, FrameRange range) {
  std::vector<const Clip*> out;
  for (auto c = std::upper_bound(clips.begin(), clips.end(), range.start,
                                 [](Frames f, const Clip&x) { return f < x.end(); });
       c != clips.end() && c->start < range.end; ++c)
    out.push_back(&*c);
  return out;
}

/// Those of a list, in order, with from <= at < to.
std::pair<HitList::const_iterator, HitList::const_iterator> between(const HitList& hits, FrameRange range) {
  const auto before = [](const Hit& h, Frames f) { return h.at < f; };
  return {std::lower_bound(hits.begin(), hits.end(), range.start, before),
          std::lower_bound(hits.begin(), hits.end(), range.end, before)};
}

/// Song time of the first and of the last attack of a plan's piece within a range; none where it holds no hit.
std::optional<FrameRange> attacksOf(const Song& song, const MicSet& set, const Clip& c, FrameRange range) {
  const auto [from, to] = between(*song.hitsIn(set, c), c.played());
  std::optional<FrameRange> out;
  for (auto h = from; h != to; ++h) {
    const auto at = c.toSong(h->at);
    if (h->origin == HitOrigin::removed || !range.contains(at)) continue;
    if (!out) out = FrameRange{at, at};
    out->end = at + Frames{1};
  }
  return out;
}

bool sameClips(const Song& before, const MicSet& was, const Song& after, const MicSet& now, FrameRange locked) {
  const auto range = heldIn(before, was, locked);
  const auto x = clipsIn(*was.clips, range);
  const auto y = clipsIn(*now.clips, range);
  if (x.size() != y.size()) return false;
  for (std::size_t i = 0; i < x.size(); ++i) {
    const auto& a = *x[i];
    const auto& b = *y[i];
    if (bodyIn(a, range) != bodyIn(b, range)) return false;
    if (edgesIn(a, range) != edgesIn(b, range)) return false;
    if (soundOf(before, a.bundle) != soundOf(after, b.bundle)) return false;
    if (!a.map.identity() && before.methodOf(was, a) != after.methodOf(now, b)) return false;
  }
  return true;
}

/// The points that say how an envelope runs in a range.
Envelope courseIn(const Envelope& envelope, FrameRange range) {
  const auto after = [](Frames f, const EnvelopePoint& p) { return f < p.at; };
  auto from = std::upper_bound(envelope.begin(), envelope.end(), range.start, after);
  auto to = std::lower_bound(envelope.begin(), envelope.end(), range.end,
                             [](const EnvelopePoint& p, Frames f) { return p.at < f; });
  if (from != envelope.begin()) --from;
  if (to != envelope.end()) ++to;
  return {from, to};
}

/// The value that these points hold throughout; none where they move.
std::optional<double> levelOf(const Envelope& course) {
  if (course.empty()) return 0.0;
  const bool level =
      std::all_of(course.begin(), course.end(), [&](const auto& p) { return p.value == course.front().value; });
  return level ? std::optional(course.front().value) : std::nullopt;
}

bool sameCourse(const Envelope& a, const Envelope& b, FrameRange range) {
  const auto x = courseIn(a, range);
  const auto y = courseIn(b, range);
  return x == y || (levelOf(x) && levelOf(x) == levelOf(y));
}

/// The same effects, and what moves their controls the same within a range.
bool sameInserts(const InsertList& before, const InsertList& after, FrameRange range) {
  return std::equal(before.begin(), before.end(), after.begin(), after.end(), [&](const Insert& a, const Insert& b) {
    if (a.id != b.id || a.effect != b.effect || a.on != b.on || a.values != b.values || a.state != b.state)
      return false;
    return std::equal(a.moved.begin(), a.moved.end(), b.moved.begin(), b.moved.end(),
                      [&](const auto& x, const auto& y) {
                        return x.first == y.first && x.second.way == y.second.way &&
                               sameCourse(x.second.points, y.second.points, range);
                      });
  });
}

bool sameTracks(const Song& before, const Song& after, const MicSet& set, FrameRange range) {
  for (const auto id : set.tracks) {
    const auto* a = before.find(id);
    const auto* b = after.find(id);
    if (!a || !b || a->gainDb != b->gainDb || a->pan != b->pan || a->muted != b->muted ||
        !sameInserts(insertsOf(before, id), insertsOf(after, id), range))
      return false;
    for (const auto envelope : {&Track::gainEnvelope, &Track::panEnvelope, &Track::muteEnvelope})
      if (!(a->*envelope).sameObject(b->*envelope) && !sameCourse(*(a->*envelope), *(b->*envelope), range))
        return false;
  }
  return true;
}

using TrackRange = std::pair<FrameRange, TrackId>;

/// Where which of a set's tracks are silent, of the spans that reach into a range.
std::vector<TrackRange> silencesIn(const Song& song, const MicSet& set, FrameRange range) {
  std::vector<TrackRange> out;
  for (const auto& s : song.spans)
    if (s.range.overlaps(range))
      for (const auto t : s.tracks)
        if (std::find(set.tracks.begin(), set.tracks.end(), t) != set.tracks.end()) out.emplace_back(s.range, t);
  std::sort(out.begin(), out.end(), [](const TrackRange& a, const TrackRange& b) {
    return std::tie(a.first.start, a.second.value) < std::tie(b.first.start, b.second.value);
  });
  return out;
}

/// What is heard of a take on a set: its recordings, and its line where that is sung otherwise or was heard already.
bool sameTake(const Song& before, const Song& after, const MicSet& set, TakeId id) {
  const auto* a = before.find(id);
  const auto* b = after.find(id);
  if (!a || !b || a->length != b->length) return false;
  for (const auto t : set.tracks) {
    const auto* x = before.micOf(id, t);
    const auto* y = after.micOf(id, t);
    if ((x == nullptr) != (y == nullptr) || (x && *x != *y)) return false;
  }
  const auto& was = before.lineOf(id, set.id);
  const auto& now = after.lineOf(id, set.id);
  if (was.sameObject(now)) return true;
  const bool needed = set.pitch->active() || std::any_of(set.clips->begin(), set.clips->end(), [&](const Clip& c) {
                        return c.take == id && (c.extras->retuned() || !c.map.identity());
                      });
  return was == now || (was->track.values.empty() && !needed);
}

PitchPlan soundOf(PitchPlan plan) {
  for (auto& [name, wish] : plan.wishes) wish.accepted = false;
  std::erase_if(plan.wishes, [](const auto& w) { return w.second == NoteWish{}; });
  return plan;
}

HitOverride decidedFor(const TimingPlan& plan, HitId hit) {
  const auto found = plan.overrides.find(hit);
  return found == plan.overrides.end() ? HitOverride{} : found->second;
}

/// The hits of a range, and what was decided about them. A piece stands for more than it shows: what is hidden of it
/// counts as lying in it.
bool sameHits(const Song& before, const MicSet& was, const Song& after, const MicSet& now, FrameRange range) {
  for (const auto* c : clipsIn(*was.clips, range)) {
    if (c->reversed) continue;
    const auto& a = before.hitsIn(was, *c);
    const auto& b = after.hitsIn(was, *c);
    if (a.sameObject(b) && was.plan.sameObject(now.plan)) continue;
    const auto stands =
        c->piece ? FrameRange{c->piece->map.take(c->piece->covers.start), c->piece->map.take(c->piece->covers.end)}
                 : c->played();
    const auto listed = [&](const HitList& hits) {
      std::vector<std::tuple<HitId, Frames, DrumClass, bool>> out;
      const auto [from, to] = between(hits, stands);
      for (auto h = from; h != to; ++h)
        if (range.contains(c->toSong(h->at))) out.emplace_back(h->id, h->at, h->drum, h->origin == HitOrigin::removed);
      return out;
    };
    const auto here = listed(*a);
    if (!a.sameObject(b) && here != listed(*b)) return false;
    if (std::any_of(here.begin(), here.end(), [&](const auto& h) {
          return decidedFor(*was.plan, std::get<0>(h)) != decidedFor(*now.plan, std::get<0>(h));
        }))
      return false;
  }
  return true;
}

/// All of a set that an edit may change: locks themselves, names and what was looked at are no edit of it.
bool sameSet(const MicSet& a, MicSet b) {
  b.name = a.name;
  b.locked = a.locked;
  b.locks = a.locks;
  if (!a.plan.sameObject(b.plan)) {
    TimingPlan plan = *b.plan;
    plan.accepted = a.plan->accepted;
    b.plan = std::move(plan);
  }
  if (!a.pitch.sameObject(b.pitch) && soundOf(*a.pitch) == soundOf(*b.pitch)) b.pitch = a.pitch;
  return a == b;
}

bool sameIn(const Song& before, const MicSet& was, const Song& after, const MicSet& now, FrameRange range) {
  if (was.tracks != now.tracks) return false;
  if (!was.pitch.sameObject(now.pitch) && soundOf(*was.pitch) != soundOf(*now.pitch)) return false;
  if (!(was.clips.sameObject(now.clips) && before.bundles == after.bundles && was.method == now.method) &&
      !sameClips(before, was, after, now, range))
    return false;
  TakeId last;
  for (const auto* c : clipsIn(*was.clips, range)) {
    if (c->take == last) continue;
    last = c->take;
    if (!sameTake(before, after, was, last)) return false;
  }
  return sameTracks(before, after, was, range) && silencesIn(before, was, range) == silencesIn(after, now, range) &&
         sameHits(before, was, after, now, range);
}

/// What layers do to a set's sound in a range: those that are heard on its track, and those that lower its drums.
struct LayersIn {
  std::vector<LayerSettings> settings;
  std::vector<Shared<SoundSet>> sounds;
  std::vector<LayerStroke> strokes;

  bool operator==(const LayersIn&) const = default;
};

LayersIn layersIn(const Song& song, const MicSet& set, FrameRange range) {
  LayersIn out;
  for (const auto& l : song.layers) {
    const bool here = set.tracks == std::vector{l.track};
    const bool lowers = l.set == set.id && l.settings.blend > 0;
    if (!l.on || (!here && !lowers)) continue;
    const auto before = out.strokes.size();
    for (auto& s : strokesOf(song, l)) {
      if (!range.contains(s.at) || !s.heard) continue;
      if (!here) s = {s.hit, s.take, s.inTake, s.at};  // what is played elsewhere does not matter
      out.strokes.push_back(s);
    }
    if (out.strokes.size() == before) continue;
    LayerSettings settings = l.settings;
    if (!here) settings = {}, settings.blend = l.settings.blend;
    settings.gainDb = settings.follow = settings.threshold = 0;  // the strokes have them
    out.settings.push_back(settings);
    out.sounds.push_back(here ? l.sounds : Shared<SoundSet>());
  }
  return out;
}

}  // namespace

FrameRange heldIn(const Song& song, const MicSet& set, FrameRange lock) {
  const auto clips = clipsIn(*set.clips, lock);
  if (clips.empty()) return lock;
  FrameRange out = lock;
  const auto little = [&](const Clip& c) {
    const FrameRange part{std::max(c.start, lock.start), std::min(c.end(), lock.end)};
    return part.length() < littleOfPiece(song.rate);
  };
  for (const auto* c : clips) {
    if (!c->piece) break;
    const auto attacks = attacksOf(song, set, *c, lock);
    if (attacks && c->start >= lock.start) out.start = attacks->start;
    if (attacks || !little(*c)) break;
  }
  for (auto c = clips.rbegin(); c != clips.rend() && (*c)->piece; ++c) {
    const auto attacks = attacksOf(song, set, **c, lock);
    if (attacks) out.end = std::max(out.start, attacks->end);
    if (attacks || !little(**c)) break;
  }
  return out;
}

std::optional<Error> againstLocks(const Song& before, const Song& after) {
  const auto locked = [](const std::string& what) {
    return Error{ErrorKind::refused, what + " is locked. Unlock it first to change it.", {}};
  };
  for (const auto& was : before.sets) {
    const auto ranges = lockedIn(was);
    if (ranges.empty()) continue;
    const auto* now = after.find(was.id);
    if (!now) return locked((was.locked ? "\"" : "A range of \"") + was.name + "\"");
    if (was.locked && !sameSet(was, *now)) return locked("\"" + was.name + "\"");
    for (const auto& range : ranges)
      if (!sameIn(before, was, after, *now, range) || layersIn(before, was, range) != layersIn(after, *now, range))
        return locked((was.locked ? "\"" : namedRange(before.tempo, range)) + was.name + "\"");
  }
  return {};
}

}  // namespace ochron

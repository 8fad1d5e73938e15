#include "checks/fix.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <map>

#include "checks/tempo_checks.h"
#include "edits/anchor_edits.h"
#include "edits/edit_tools.h"
#include "edits/hit_edits.h"
#include "edits/layer_edits.h"
#include "edits/pitch_edits.h"
#include "edits/plan_edits.h"
#include "edits/print_edits.h"
#include "edits/tempo_edits.h"
#include "feel/timings.h"
#include "seams/apply_plan.h"
#include "seams/measure.h"
#include "seams/seam_edits.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {

constexpr std::array kLengthsMs{1.5, 3.0, 6.0, 12.0};
constexpr int kPlaces = 24;

Result<Song> decide(const Song& song, SetId id, HitId hit, const std::function<void(HitOverride&)>& change) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  TimingPlan plan = *set->plan;
  change(plan.overrides[hit]);
  return setTimingPlan(song, id, plan);
}

/// How far a seam is from its bars; steps weigh most.
double badness(const SeamMeasure& m, Frames length, int rate) {
  const double tooShort = std::max(0.0, kLengthsMs.front() - msFromFrames(length, rate));
  return std::abs(m.levelDb) + 4 * std::max(0.0, m.steepness - 0.5) + 0.02 * std::max(0.0, m.loudDb) + tooShort;
}

/// The lead-in and length at which the joint comes out best, tried on all mics.
Result<Song> betterSeam(const Song& song, SetId id, HitId hit, const MediaPool& pool) {
  const auto* set = song.find(id);
  if (!set) return setGone();
  const auto& clips = *set->clips;
  const auto found =
      std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.piece && c.piece->hit == hit; });
  if (found == clips.end() || found == clips.begin())
    return fail(ErrorKind::refused, "There is no seam here any more.");
  const auto& hits = *song.hitsOf(found->take, id);
  const auto own = std::find_if(hits.begin(), hits.end(), [&](const Hit& h) { return h.id == hit; });
  if (own == hits.end()) return fail(ErrorKind::notFound, "This hit is not in the take any more.");
  const auto room = seamRoom(song, id, found->id);
  SeamGauge gauge(song, id, pool);
  const auto tried = [&](Frames at, Frames length) {
    Clip a = *(found - 1);
    Clip b = *found;
    moveEnd(a, at - a.end());
    moveStart(b, at - b.start);
    b.seam.before = length / 2;
    b.seam.after = length - length / 2;
    return badness(worstOf(gauge.measure(a, b)), length, song.rate);
  };
  double best =
      badness(worstOf(gauge.measure(*(found - 1), *found)), found->seam.before + found->seam.after, song.rate) - 0.05;
  SeamOverride change;
  for (const double lengthMs : kLengthsMs) {
    const auto length = framesFromMs(lengthMs, song.rate);
    const auto first = room.start + length / 2;
    const auto last = room.end - (length - length / 2);
    for (int i = 0; last > first && i <= kPlaces; ++i) {
      const auto at = first + (last - first) * i / kPlaces;
      const double bad = tried(at, length);
      if (bad < best) {
        best = bad;
        change.leadIn = found->toSong(own->at) - at;
        change.length = length;
      }
    }
  }
  if (!change.leadIn)
    return fail(ErrorKind::refused, "No place between the two attacks makes a better seam. Try another fill.");
  return changeSeams(song, id, {found->id}, change);
}

Result<Song> toHit(const Song& song, Ticks at,
                   const std::function<std::optional<Frames>(const TempoAnchor&, const std::vector<Frames>&)>& which) {
  Timings timings;
  const auto& timing = timings.all(song);
  const auto hits = placesOfHits(timing);
  for (const auto& a : *song.anchors)
    if (a.at == at)
      if (const auto hit = which(a, hits)) return setAnchor(song, at, *hit);
  return fail(ErrorKind::notFound, "There is no hit near this anchor any more.");
}

Result<Song> toItsHit(const Song& song, Ticks at) {
  return toHit(song, at, [&](const auto& a, const auto& hits) { return hitOfAnchor(a, hits, song.rate); });
}

Result<Song> toOtherHit(const Song& song, Ticks at) {
  return toHit(song, at, [&](const auto& a, const auto& hits) -> std::optional<Frames> {
    const auto both = hitsAround(a, hits, song.rate);
    if (!both) return std::nullopt;
    return both->second;
  });
}

Result<Song> wish(const Song& song, const Check& check, const std::function<void(NoteWish&)>& change) {
  const auto* set = song.find(check.set);
  if (!set) return setGone();
  const auto found = set->pitch->wishes.find(*check.note);
  auto w = found == set->pitch->wishes.end() ? NoteWish{} : found->second;
  change(w);
  return setNoteWishes(song, check.set, {{*check.note, w}});
}

/// The tempo or the place of bar 1 that was the next likeliest.
Result<Song> otherReading(const Song& song, CheckKind kind) {
  const auto nothing = [] { return fail(ErrorKind::notFound, "Nothing else was heard: set the tempo by hand."); };
  if (!song.tempoDoubt) return nothing();
  const auto& d = *song.tempoDoubt;
  const auto& now = song.tempo;
  Result<TempoMap> map = nothing();
  if (kind == CheckKind::unsureTempo && d.otherBpm > 0)
    map = TempoMap::make(now.rate(), now.origin(), {{Ticks{}, d.otherBpm, false}}, now.meters());
  if (kind == CheckKind::unsureBars && d.otherBar)
    map = TempoMap::make(now.rate(), *d.otherBar, now.tempos(), now.meters());
  if (!map) return tl::unexpected(map.error());
  return setTempoMap(song, *map);
}

/// The stroke with the sound where it had none, and without where it had; or the polarity that fits the drum.
Result<Song> fixLayer(const Song& song, SetId set, const Check& check) {
  for (const auto& layer : song.layers) {
    if (layer.set != set) continue;
    for (const auto& s : strokesOf(song, layer)) {
      if (s.hit != check.hit || s.take != check.take) continue;
      auto next = layer;
      if (check.kind == CheckKind::layerCancels) {
        if (!layer.turned) break;
        next.turned.reset();
      } else {
        next.wishes[s.hit].heard = !s.heard;
      }
      return setLayer(song, next);
    }
  }
  return fail(ErrorKind::notFound, "The layer is as it should be already.");
}

}  // namespace

std::string fixName(CheckKind kind) {
  switch (kind) {
    case CheckKind::weakHit: return "remove hit";
    case CheckKind::twoHitsOnePlace: return "join the two";
    case CheckKind::farMove:
    case CheckKind::tooMuchStretch: return "leave alone";
    case CheckKind::fadedGap: return "stretch instead";
    case CheckKind::stretchedGap: return "fade instead";
    case CheckKind::shortSeam:
    case CheckKind::levelChange:
    case CheckKind::roughSeam:
    case CheckKind::loudSeam: return "find a better place";
    case CheckKind::anchorOff: return "bring it to the hit";
    case CheckKind::anchorTwoWays: return "take the other attack";
    case CheckKind::carriedOn:
    case CheckKind::tempoJump: return "remove the anchor";
    case CheckKind::unsureTempo: return "take the other tempo";
    case CheckKind::unsureBars: return "take the other bar 1";
    case CheckKind::ghostOrStroke: return "the other way";
    case CheckKind::layerCancels: return "turn its polarity";
    case CheckKind::stalePrint: return "take the print back";
    case CheckKind::unsureNote:
    case CheckKind::octaveDoubt:
    case CheckKind::betweenPitches:
    case CheckKind::farPitch:
    case CheckKind::pitchSuffers: return "leave as sung";
  }
  return {};
}

Result<Song> fixCheck(const Song& song, SetId set, const Check& check, const MediaPool& pool) {
  const auto override = [&](const std::function<void(HitOverride&)>& change) {
    return decide(song, set, check.hit, change);
  };
  switch (check.kind) {
    case CheckKind::weakHit: return removeHits(song, check.take, set, {check.hit});
    case CheckKind::twoHitsOnePlace: return override([](HitOverride& o) { o.joined = true; });
    case CheckKind::farMove:
    case CheckKind::tooMuchStretch: return override([](HitOverride& o) { o.frozen = true, o.target.reset(); });
    case CheckKind::fadedGap: return override([](HitOverride& o) { o.seam.fill = SeamFill::stretched; });
    case CheckKind::stretchedGap: return override([](HitOverride& o) { o.seam.fill = SeamFill::faded; });
    case CheckKind::shortSeam:
    case CheckKind::levelChange:
    case CheckKind::roughSeam:
    case CheckKind::loudSeam: return betterSeam(song, set, check.hit, pool);
    case CheckKind::anchorOff: return toItsHit(song, *check.bar);
    case CheckKind::anchorTwoWays: return toOtherHit(song, *check.bar);
    case CheckKind::carriedOn:
    case CheckKind::tempoJump: return removeAnchors(song, {*check.bar});
    case CheckKind::unsureTempo:
    case CheckKind::unsureBars: return otherReading(song, check.kind);
    case CheckKind::ghostOrStroke:
    case CheckKind::layerCancels: return fixLayer(song, set, check);
    case CheckKind::stalePrint: return unprint(song, check.print);
    case CheckKind::unsureNote:
    case CheckKind::octaveDoubt:
    case CheckKind::betweenPitches:
    case CheckKind::farPitch:
    case CheckKind::pitchSuffers: return wish(song, check, [](NoteWish& w) { w.asSung = true; });
  }
  return fail(ErrorKind::refused, "There is nothing to be done about this automatically.");
}

Result<Song> acceptCheck(const Song& song, const Check& check) {
  if (check.print) return acceptPrint(song, check.print);
  if (check.note) return wish(song, check, [](NoteWish& w) { w.accepted = true; });
  if (check.bar) {
    Song next = song;
    next.acceptedTempo.emplace(check.kind, *check.bar);
    for (const auto kind : check.also) next.acceptedTempo.emplace(kind, *check.bar);
    return next;
  }
  const auto* set = song.find(check.set);
  if (!set) return setGone();
  TimingPlan plan = *set->plan;
  plan.accepted.emplace(check.hit, check.kind);
  for (const auto kind : check.also) plan.accepted.emplace(check.hit, kind);
  return setTimingPlan(song, check.set, plan);
}

}  // namespace ochron

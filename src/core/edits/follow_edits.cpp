#include "edits/follow_edits.h"

#include <algorithm>
#include <cmath>
#include <functional>

#include "edits/edit_tools.h"
#include "edits/locks.h"
#include "edits/pieces.h"
#include "edits/stretch_edits.h"
#include "edits/tempo_edits.h"

namespace ochron {
namespace {

constexpr double kFromHitSeconds = 0.03;  // of a bar line's pin from a hit: nearer ones the hit stands for

/// From take time to song time, as it is to be.
using Place = std::function<Frames(Frames take)>;

/// A clip whose hits' strokes, lines and ends come to their places; attacks stay as they were recorded.
Clip carried(const Song& song, const MicSet& set, Clip clip, const std::vector<Frames>& lines, const Place& to) {
  if (clip.reversed) return clip;
  const auto played = clip.played();
  const Frames apart{static_cast<std::int64_t>(kLeastApartSeconds * song.rate)};
  const Frames fromHit{static_cast<std::int64_t>(kFromHitSeconds * song.rate)};
  std::vector<Pin> wanted{{played.start, to(played.start)}};
  for (const auto& hit : activeHits(*song.hitsIn(set, clip), set.hits, song.rate)) {
    const auto reach = reachOf(hit);
    if (reach.first <= played.start || reach.last >= played.end) continue;
    wanted.push_back({reach.first, to(reach.first)});
    if (reach.last > reach.first) wanted.push_back({reach.last, to(reach.first) + (reach.last - reach.first)});
  }
  const auto hits = wanted;
  for (const auto at : lines) {
    if (at <= played.start || at >= played.end) continue;
    const auto near =
        std::lower_bound(hits.begin(), hits.end(), at - fromHit, [](auto& p, Frames f) { return p.take < f; });
    if (near == hits.end() || near->take > at + fromHit) wanted.push_back({at, to(at)});
  }
  wanted.push_back({played.end, to(played.end)});
  std::stable_sort(wanted.begin(), wanted.end(), [](auto& a, auto& b) { return a.take < b.take; });
  const auto start = wanted.front().stretched;
  std::vector<Pin> pins;
  for (auto pin : wanted) {
    pin.stretched += clip.source - start;
    const bool last = pin.take == played.end;
    while (last && pins.size() > 1 && (pins.back().take >= pin.take || pins.back().stretched >= pin.stretched))
      pins.pop_back();
    if (!pins.empty() && !last &&
        (pin.take < pins.back().take + apart || pin.stretched < pins.back().stretched + apart))
      continue;
    pins.push_back(pin);
  }
  clip.start = start;
  clip.length = std::max(Frames{1}, pins.back().stretched - clip.source);
  const bool even = std::all_of(pins.begin(), pins.end(),
                                [&](const Pin& p) { return p.stretched - clip.source == p.take - played.start; });
  if (!even || !clip.map.identity()) clip.map = TakeMap(std::move(pins));
  fitFades(clip);
  return clip;
}

/// One tempo over [first, last) bars, `amount` of the way from what is there.
Result<TempoMap> steadier(const TempoMap& map, int first, int last, double amount) {
  const auto quarters = [&](int bar) {
    return static_cast<double>((map.barStart(bar) - map.barStart(first)).value) / kTicksPerQuarter;
  };
  const auto seconds = [&](int bar) { return map.secondsFromOrigin(map.barStart(bar)); };
  const double begin = seconds(first);
  const double period = (seconds(last) - begin) / quarters(last);
  std::vector<TempoEvent> events;
  if (amount >= 1) {
    events.push_back({map.barStart(first), 60 / period, false});
  } else {
    const auto target = [&](int bar) {
      return seconds(bar) + amount * (begin + quarters(bar) * period - seconds(bar));
    };
    for (int bar = first; bar < last; ++bar)
      events.push_back(
          {map.barStart(bar), 60 * (quarters(bar + 1) - quarters(bar)) / (target(bar + 1) - target(bar)), false});
  }
  auto made = TempoMap::make(map.rate(), Frames{}, events, map.meters());
  if (!made) return made;
  const auto origin = map.toFrames(map.barStart(first)) - made->toFrames(map.barStart(first));
  return TempoMap::make(map.rate(), origin, std::move(events), map.meters());
}

}  // namespace

Result<Song> makeSteady(const Song& song, double amount) {
  if (!kSteadyRange.accepts(amount)) return fail(ErrorKind::badInput, "Steady is 0 to 100 %.");
  std::optional<FrameRange> all;
  for (const auto& set : song.sets)
    for (const auto& c : *set.clips)
      all = all ? FrameRange{std::min(all->start, c.start), std::max(all->end, c.end())} : c.range();
  if (!all) return fail(ErrorKind::refused, "Import recordings first.");
  if (amount == 0) return song;
  const int first = song.tempo.barAt(all->start);
  const int last = song.tempo.barAt(all->end - Frames{1}) + 1;
  const auto map = steadier(song.tempo, first, last, amount / 100);
  if (!map) return tl::unexpected(map.error());
  auto next = setTempoMap(song, *map);
  if (!next) return next;
  for (std::size_t i = 0; i < next->sets.size(); ++i) {
    auto& set = next->sets[i];
    if (!lockedIn(set).empty()) continue;
    ClipList clips;
    for (const auto& c : withoutPlan(*song.sets[i].clips)) {
      std::vector<Frames> lines;
      for (int bar = song.tempo.barAt(c.start); song.tempo.toFrames(song.tempo.barStart(bar)) < c.end(); ++bar)
        lines.push_back(c.toTake(song.tempo.toFrames(song.tempo.barStart(bar))));
      auto moved =
          carried(song, set, c, lines, [&](Frames take) { return map->toFrames(song.tempo.toTicks(c.toSong(take))); });
      if (c.reversed) moved.start = map->toFrames(song.tempo.toTicks(c.start));
      placeClip(*next, clips, moved);
    }
    tidySeams(*next, clips);
    set.clips = std::move(clips);
  }
  return next;
}

/// One clip put to its new places, over what is there.
template <class MakeLines, class MakePlace>
Result<Song> fitted(const Song& song, ClipId id, MakeLines&& lines, MakePlace&& place) {
  return withClips(
      song, {id}, [&](Song& next, MicSet& set, ClipList& clips, const ChosenClips& chosen) -> Result<void> {
        takeOutOfPlan(set, clips, chosen);
        const auto found = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
        if (found->reversed)
          return fail(ErrorKind::refused, "A clip that plays backwards cannot be fitted. Turn it round first.");
        const auto clip = carried(song, set, *found, lines(*found), place(*found));
        clips.erase(found);
        placeClip(next, clips, clip);
        tidySeams(next, clips);
        return {};
      });
}

Result<Song> fitClip(const Song& song, ClipId id, const SourceTempo& source) {
  if (!kBpmRange.accepts(source.bpm)) return fail(ErrorKind::badInput, "The recording's tempo may be 10 to 999 BPM.");
  const auto& map = song.tempo;
  const double framesPerQuarter = 60 * song.rate / source.bpm;
  const auto lineOf = [&](const Clip& clip) {
    const auto now = map.toTicks(clip.toSong(source.firstDownbeat));
    const auto bar = map.barStart(map.barAt(now));
    const auto after = map.barStart(map.barAt(now) + 1);
    return now - bar <= after - now ? bar : after;
  };
  const auto lines = [&](const Clip& clip) {
    std::vector<Frames> out;
    const auto barLength = map.meterOfBar(map.barAt(lineOf(clip))).barLength();
    const double bar = framesPerQuarter * static_cast<double>(barLength.value) / kTicksPerQuarter;
    const auto played = clip.played();
    const auto barsTo = [&](Frames take) { return static_cast<double>((take - source.firstDownbeat).value) / bar; };
    const auto last = static_cast<std::int64_t>(std::floor(barsTo(played.end)));
    for (auto k = static_cast<std::int64_t>(std::ceil(barsTo(played.start))); k <= last; ++k)
      out.push_back(source.firstDownbeat + Frames{std::llround(static_cast<double>(k) * bar)});
    return out;
  };
  const auto place = [&](const Clip& clip) -> Place {
    return [&, line = lineOf(clip)](Frames take) {
      const double quarters = static_cast<double>((take - source.firstDownbeat).value) / framesPerQuarter;
      return map.toFrames(line + Ticks{std::llround(quarters * kTicksPerQuarter)});
    };
  };
  auto next = fitted(song, id, lines, place);
  return next ? setSourceTempo(*next, song.find(id)->take, source) : next;
}

namespace {

constexpr double kLeadInMs = 3;  // of a slice, before its hit
constexpr double kJointMs = 3;   // crossfade where slices overlap
constexpr double kGapFadeMs = 8;

/// Cuts a clip before its hits and puts each slice where `to` has the hit.
Result<ClipList> sliced(Song& song, const MicSet& set, const Clip& clip, const Clip& to) {
  const auto played = clip.played();
  const auto lead = framesFromMs(kLeadInMs, song.rate);
  std::vector<Frames> hits;
  for (const auto& h : activeHits(*song.hitsIn(set, clip), set.hits, song.rate)) {
    const auto at = reachOf(h).first;
    if (at >= played.start && at < played.end && (hits.empty() || at - hits.back() > lead + lead)) hits.push_back(at);
  }
  if (hits.empty())
    return fail(ErrorKind::refused,
                "No hits were found in this clip, so there is nothing to cut it at. Find its hits "
                "first, or stretch it.");
  ClipList out;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const auto from = i == 0 ? played.start : hits[i] - lead;
    const auto until = i + 1 < hits.size() ? hits[i + 1] - lead : played.end;
    const auto shift = to.toSong(hits[i]) - hits[i];
    if (!out.empty() && out.back().shift() == shift) {  // goes on as it was recorded
      out.back().length += until - from;
      continue;
    }
    Clip piece = clip;
    piece.source = from;
    piece.start = from + shift;
    piece.length = until - from;
    if (i > 0) {
      piece.id = song.newId<ClipTag>();
      piece.fadeIn = {};
      piece.seam = {};
    }
    if (!out.empty()) {
      auto& before = out.back();
      before.fadeOut = {};
      if (before.end() >= piece.start) {
        before.length = piece.start - before.start;
        const auto joint = std::min(framesFromMs(kJointMs, song.rate), before.length);
        piece.seam.before = joint / 2;
        piece.seam.after = joint - joint / 2;
      } else {
        before.fadeOut.length = std::min(framesFromMs(kGapFadeMs, song.rate), before.length);
      }
      if (before.length <= Frames{}) out.pop_back();
    }
    out.push_back(piece);
  }
  out.back().fadeOut = clip.fadeOut;
  for (auto& c : out) fitFades(c);
  return out;
}

}  // namespace

Result<Song> fitClip(const Song& song, ClipId id, const SourceTempo& source, FitManner manner) {
  auto fitted = fitClip(song, id, source);
  if (!fitted || manner == FitManner::stretched) return fitted;
  if (manner == FitManner::tape) return setStretchMethod(*fitted, ClipIds{id}, StretchMethod::tape);
  const auto* clip = song.find(id);
  if (!clip->map.identity() || clip->reversed || clip->piece)
    return fail(ErrorKind::refused,
                "Only a clip as it was recorded can be fitted by slices: take it out of its plan, its pins away, and "
                "turn it round again.");
  const Clip to = *fitted->find(id);
  auto next = withClips(song, {id}, [&](Song& now, MicSet& set, ClipList& clips, const ChosenClips&) -> Result<void> {
    const auto found = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == id; });
    const Clip whole = *found;
    auto pieces = sliced(now, set, whole, to);
    if (!pieces) return tl::unexpected(pieces.error());
    clips.erase(found);
    for (const auto& p : *pieces) placeClip(now, clips, p);
    tidySeams(now, clips);
    return {};
  });
  return next ? setSourceTempo(*next, clip->take, source) : next;
}

Result<Song> setSourceTempo(const Song& song, TakeId id, const std::optional<SourceTempo>& tempo) {
  if (tempo && !kBpmRange.accepts(tempo->bpm))
    return fail(ErrorKind::badInput, "The recording's tempo may be 10 to 999 BPM.");
  Song next = song;
  for (auto& take : next.takes)
    if (take.id == id) {
      take.tempo = tempo;
      return next;
    }
  return fail(ErrorKind::notFound, "This take is not in the song any more.");
}

Result<Song> fitSets(const Song& song, const std::vector<FitOne>& sets) {
  Result<Song> next = song;
  for (const auto& one : sets) {
    const auto found = std::find_if(next->sets.begin(), next->sets.end(), [&](auto& s) { return s.id == one.set; });
    if (found == next->sets.end()) return setGone();
    if (found->locked) continue;
    const auto clips = withoutPlan(*found->clips);
    found->clips = clips;
    for (const auto& clip : clips) {
      if (clip.reversed || !next->find(clip.id)) continue;  // an earlier one may cover it now
      next = fitClip(*next, clip.id, one.source);
      if (!next) return next;
    }
  }
  return next;
}

Result<Song> fitClipTo(const Song& song, ClipId id, FrameRange range) {
  if (range.empty()) return fail(ErrorKind::refused, "Choose a range first: drag over the ruler.");
  const auto place = [&](const Clip& clip) -> Place {
    return [range, played = clip.played()](Frames take) {
      const double along =
          static_cast<double>((take - played.start).value) / static_cast<double>(played.length().value);
      return range.start + Frames{std::llround(along * static_cast<double>(range.length().value))};
    };
  };
  return fitted(
      song, id, [](const Clip&) { return std::vector<Frames>{}; }, place);
}

}  // namespace ochron

#include "document/this_desk.h"

#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/hit_desk.h"
#include "document/kit_desk.h"
#include "document/pin_desk.h"
#include "document/pitch_desk.h"
#include "document/seam_desk.h"
#include "document/tempo_desk.h"
#include "document/thing_words.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/mark_edits.h"
#include "edits/pin_edits.h"
#include "feel/standing.h"

namespace ochron {

ThisDesk::ThisDesk(Document& document) : QObject(&document), doc_(document) {}

std::optional<Selection::Thing> ThisDesk::removed() const {
  auto can = Selection::kAnything;
  if (doc_.step() != Step::clips) can.setFlag(Thing::range, false);
  return doc_.selection().meant(can);
}

std::optional<Selection::Thing> ThisDesk::nudged() const {
  auto can = Selection::kAnything;
  can.setFlag(Thing::range, false);
  return doc_.selection().meant(can);
}

bool ThisDesk::canCopy() const { return doc_.selection().meant(Selection::Thing::clips | Thing::range).has_value(); }

void ThisDesk::remove() {
  const auto& song = doc_.song();
  auto& chosen = doc_.selection();
  const auto what = removed();
  if (!what) return;
  switch (*what) {
    case Thing::notes: return doc_.pitchDesk().giveBack();
    case Thing::pins: return doc_.pinDesk().remove();
    case Thing::point: {
      auto e = *envelopeOf(song, chosen.point()->envelope);
      std::erase_if(e, [&](auto& p) { return p.at == chosen.point()->at; });
      doc_.edit(tr("Remove an envelope point"), setEnvelope(song, chosen.point()->envelope, e));
      return;
    }
    case Thing::span: doc_.edit(tr("Remove a silent span"), removeSpan(song, *chosen.span())); return;
    case Thing::marker: doc_.edit(tr("Remove a marker"), removeMarker(song, *chosen.marker())); return;
    case Thing::seam: return doc_.seamDesk().release();
    case Thing::hit: return doc_.hitDesk().remove();
    case Thing::clips:
    case Thing::range: return doc_.clipDesk().remove();
  }
}

void ThisDesk::nudge(Frames by) {
  const auto& song = doc_.song();
  auto& chosen = doc_.selection();
  const auto what = nudged();
  if (!what) return;
  switch (*what) {
    case Thing::notes: return doc_.pitchDesk().moveInTime(NotePart::whole, by, PinReach::neighbours);
    case Thing::pins: return doc_.pinDesk().nudge(by);
    case Thing::point: return nudgePoint(by);
    case Thing::span: {
      auto span = *song.find(*chosen.span());
      span.range = {span.range.start + by, span.range.end + by};
      doc_.edit(tr("Move a silent span"), setSpan(song, span), "nudge span");
      return;
    }
    case Thing::marker: {
      auto marker = *song.find(*chosen.marker());
      marker.at = song.tempo.toTicks(song.tempo.toFrames(marker.at) + by);
      doc_.edit(tr("Move a marker"), setMarker(song, marker), "nudge marker");
      return;
    }
    case Thing::clips: return doc_.clipDesk().nudge(by);
    case Thing::seam: return nudgeSeam(by);
    case Thing::hit: return nudgeHit(by);
    case Thing::range: return;
  }
}

void ThisDesk::nudgeByGrid(int steps) {
  const auto& map = doc_.song().tempo;
  const auto from = start();
  nudge(map.toFrames(map.toTicks(from) + doc_.timingDesk().settings().grid.step() * steps) - from);
}

Frames ThisDesk::start() const {
  const auto& song = doc_.song();
  const auto& chosen = doc_.selection();
  const auto what = nudged();
  if (!what) return doc_.transport().cursor();
  switch (*what) {
    case Thing::notes: return doc_.pitchDesk().chosen().front().start;
    case Thing::pins: {
      const auto& pin = chosen.pins().front();
      const auto* clip = song.find(pin.clip);
      return clip ? clip->toSong(pin.take) : doc_.transport().cursor();
    }
    case Thing::point: {
      const auto* clip = song.find(chosen.point()->envelope.clip);
      return clip ? clip->toSong(chosen.point()->at) : chosen.point()->at;
    }
    case Thing::span: return song.find(*chosen.span())->range.start;
    case Thing::marker: return song.tempo.toFrames(song.find(*chosen.marker())->at);
    case Thing::clips: return song.find(chosen.clips().front())->start;
    case Thing::seam: return chosen.seamClip()->start;
    case Thing::hit: return chosen.plannedHit()->now;
    case Thing::range: break;
  }
  return chosen.range().start;
}

/// In the Timing step what a hit is moved to, where a plan is on; else where its onset is.
void ThisDesk::nudgeHit(Frames by) {
  const auto* h = doc_.selection().plannedHit();
  const auto set = doc_.selection().set();
  if (doc_.step() != Step::timing || !doc_.timingDesk().settings().on) {
    doc_.edit(tr("Move onset"), moveHit(doc_.song(), h->take, set, h->hit.id, h->hit.at + by), "nudge");
    return;
  }
  const auto& overrides = doc_.song().find(set)->plan->overrides;
  const auto found = overrides.find(h->hit.id);
  auto o = found == overrides.end() ? HitOverride{} : found->second;
  o.target = doc_.song().tempo.toTicks(h->now + by);
  o.frozen = false;
  doc_.timingDesk().overrideHit(tr("Move target"), h->hit.id, o, "nudge target");
}

void ThisDesk::nudgeSeam(Frames by) {
  const auto* clip = doc_.selection().seamClip();
  doc_.seamDesk().place(clip->id, clip->start + by, "nudge seam");
}

/// A point does not pass its neighbours.
void ThisDesk::nudgePoint(Frames by) {
  const auto point = *doc_.selection().point();
  auto e = *envelopeOf(doc_.song(), point.envelope);
  const auto at = std::find_if(e.begin(), e.end(), [&](const EnvelopePoint& p) { return p.at == point.at; });
  if (at == e.end()) return;
  auto to = at->at + by;
  if (at != e.begin()) to = std::max(to, (at - 1)->at + Frames{1});
  if (at + 1 != e.end()) to = std::min(to, (at + 1)->at - Frames{1});
  at->at = to;
  if (doc_.edit(tr("Move an envelope point"), setEnvelope(doc_.song(), point.envelope, e), "nudge point"))
    doc_.selection().choosePoint(PointRef{point.envelope, to});
}

// From one to the next
// -------------------------------------------------------------------------------------------------

Selection::Thing ThisDesk::stepped() const {
  const auto meant = [this](Selection::Things can, Thing otherwise) {
    return doc_.selection().meant(can).value_or(otherwise);
  };
  switch (doc_.step()) {
    case Step::clips: return meant(Thing::point | Thing::span | Thing::marker, Thing::clips);
    case Step::pitch: return Thing::notes;
    case Step::seams: return Thing::seam;
    case Step::hits:
    case Step::timing:
    case Step::kit: return meant(Thing::pins | Thing::marker, Thing::hit);
    case Step::takes:
    case Step::tempo: break;
    case Step::print: return meant(Thing::point | Thing::marker | Thing::span, Thing::clips);
  }
  return meant(Thing::marker | Thing::span, Thing::clips);
}

/// In song order. Of clips, hits, seams and notes those of the set that is worked on.
std::vector<ThisDesk::Stop> ThisDesk::stops() const {
  const auto& song = doc_.song();
  auto& chosen = doc_.selection();
  std::vector<Stop> out;
  switch (stepped()) {
    case Thing::point: {
      const auto ref = chosen.point()->envelope;
      const auto* clip = song.find(ref.clip);
      for (const auto& p : *envelopeOf(song, ref))
        out.push_back({clip ? clip->toSong(p.at) : p.at, chosen.point()->at == p.at, [&chosen, ref, at = p.at](bool) {
                         chosen.choosePoint(PointRef{ref, at});
                       }});
      break;
    }
    case Thing::span:
      for (const auto& s : song.spans)
        out.push_back({s.range.start, chosen.span() == s.id, [&chosen, id = s.id](bool) { chosen.chooseSpan(id); }});
      break;
    case Thing::marker:
      for (const auto& m : song.markers)
        out.push_back({song.tempo.toFrames(m.at), chosen.marker() == m.id,
                       [&chosen, id = m.id](bool) { chosen.chooseMarker(id); }});
      break;
    case Thing::notes:
      for (const auto& n : doc_.pitchDesk().notes())
        out.push_back({n.start, chosen.isChosen(n.name),
                       [&chosen, name = n.name](bool add) { chosen.chooseNotes({name}, add); }});
      break;
    case Thing::hit: {
      const auto now = chosen.hit();
      for (const auto& h : doc_.timingDesk().planned().hits) {
        const HitRef ref{h.take, h.hit.id};
        out.push_back({doc_.transport().original() ? h.home : h.now, now == ref,
                       [&chosen, ref](bool) { chosen.chooseHit(ref); }});
      }
      break;
    }
    default:
      if (const auto* set = song.find(chosen.set())) addStops(*set, out);
  }
  std::stable_sort(out.begin(), out.end(), [](const Stop& a, const Stop& b) { return a.at < b.at; });
  return out;
}

/// What lies in a set's clips: they themselves, their seams, their pins.
void ThisDesk::addStops(const MicSet& set, std::vector<Stop>& to) const {
  auto& chosen = doc_.selection();
  const auto what = stepped();
  const auto seam = chosen.seam();
  for (std::size_t i = 0; i < set.clips->size(); ++i) {
    const auto& c = (*set.clips)[i];
    if (what == Thing::clips)
      to.push_back({c.start, chosen.isChosen(c.id), [&chosen, id = c.id](bool add) { chosen.choose({id}, add); }});
    if (what == Thing::seam && isSeam(*set.clips, i))
      to.push_back({c.start, seam == c.id, [&chosen, id = c.id](bool) { chosen.chooseSeam(id); }});
    if (what != Thing::pins) continue;
    for (const auto take : handPins(c)) {
      const PinRef pin{set.id, c.id, take};
      to.push_back({c.toSong(take), chosen.isChosen(pin), [&chosen, pin](bool add) { chosen.choosePins({pin}, add); }});
    }
  }
}

void ThisDesk::go(const Stop& stop, bool extend) {
  const auto from = doc_.transport().cursor();
  const auto what = stepped();
  const bool adds = what == Thing::clips || what == Thing::notes || what == Thing::pins;
  if (extend && !adds) {
    const auto range = doc_.selection().range();
    const auto a = range.empty() ? from : range.start;
    const auto b = range.empty() ? from : range.end;
    doc_.selection().setRange({std::min(a, stop.at), std::max(b, stop.at)});
  }
  stop.choose(extend && adds);
  doc_.transport().setCursor(stop.at);
}

void ThisDesk::step(int by, bool extend) {
  if (doc_.step() == Step::tempo && stepped() == Thing::clips) return doc_.tempoDesk().stepBar(by);
  if (stepped() == Thing::hit && !extend) return doc_.hitDesk().step(by);
  const auto all = stops();
  if (all.empty()) return doc_.tell(tr("There is nothing here to step to yet."));
  // Onwards from the last that is chosen, back from the first; else from the play line.
  const auto cursor = doc_.transport().cursor();
  std::ptrdiff_t at = -1;
  for (std::ptrdiff_t i = 0; i < std::ssize(all); ++i)
    if (all[static_cast<std::size_t>(i)].chosen && (at < 0 || by > 0)) at = i;
  const auto firstFrom = [&](Frames f) {
    return std::partition_point(all.begin(), all.end(), [&](const Stop& s) { return s.at < f; }) - all.begin();
  };
  const auto to = at >= 0 ? at + by : by > 0 ? firstFrom(cursor) : firstFrom(cursor) - 1;
  if (to < 0 || to >= std::ssize(all)) return doc_.tell(tr("There is nothing further in this direction."));
  go(all[static_cast<std::size_t>(to)], extend);
}

void ThisDesk::chooseAll() {
  const auto what = stepped();
  if (what != Thing::notes && what != Thing::pins) return doc_.selection().chooseAll();
  doc_.selection().chooseNothing();
  for (const auto& s : stops()) s.choose(true);
}

void ThisDesk::stepToEnd(bool last) {
  const auto all = stops();
  if (all.empty()) return doc_.tell(tr("There is nothing here to step to yet."));
  go(last ? all.back() : all.front(), false);
}

bool ThisDesk::canChangeSet() const { return doc_.selection().meant() == Thing::clips; }

void ThisDesk::changeSet(int by) {
  const auto ids = doc_.selection().clips();
  const auto next = moveClipsAcross(doc_.song(), ids, Frames{}, by, doc_.clipDesk().settings().overlap);
  if (!doc_.edit(tr("Move %1 to another set").arg(counted(ids.size(), "clip", "clips")), next)) return;
  doc_.selection().choose(ids);
  if (const auto* set = doc_.song().setOf(ids.front())) {
    doc_.selection().chooseSet(set->id);
    doc_.tell(tr("%1 now on %2.").arg(counted(ids.size(), "clip", "clips"), QString::fromStdString(set->name)));
  }
}

std::optional<Selection::Thing> ThisDesk::raised() const {
  auto can = Selection::Things(Thing::notes | Thing::point | Thing::clips);
  can.setFlag(Thing::hit, doc_.step() == Step::kit && doc_.kitDesk().stroke());
  return doc_.selection().meant(can);
}

bool ThisDesk::canRaise() const { return raised().has_value(); }

void ThisDesk::raise(int by) {
  const auto what = raised();
  if (!what) return;
  auto& chosen = doc_.selection();
  switch (*what) {
    case Thing::notes: return doc_.pitchDesk().moveBySteps(by);
    case Thing::hit: return doc_.kitDesk().louder(by);
    case Thing::point: {
      const auto point = *chosen.point();
      const auto range = scaleOf(doc_.song(), point.envelope).range;
      auto e = *envelopeOf(doc_.song(), point.envelope);
      for (auto& p : e)
        if (p.at == point.at)
          p.value = range.clamp(p.value + by * std::max(range.step, (range.high - range.low) / 200));
      doc_.edit(tr("Move an envelope point"), setEnvelope(doc_.song(), point.envelope, e), "raise point");
      return;
    }
    default: break;
  }
  constexpr double kStep = 0.5;  // dB
  doc_.clipDesk().change(
      tr("Change the gain of %1").arg(counted(chosen.clipCount(), "clip", "clips")),
      [by](Clip& c) { c.gainDb = kGainRange.clamp(c.gainDb + kStep * by); }, "raise clips");
}

// In words ------------------------------------------------------------------------------------------------------------

QString ThisDesk::words() const {
  const auto& song = doc_.song();
  const auto& chosen = doc_.selection();
  const auto named = [](const QString& kind, const std::string& name) {
    return name.empty() ? kind : kind + QStringLiteral(" \u201c%1\u201d").arg(QString::fromStdString(name));
  };
  const auto more = [](std::size_t n) { return n > 1 ? tr(", and %1 more").arg(n - 1) : QString(); };
  const auto what = chosen.meant();
  if (!what) return tr("Play line at %1").arg(placeWords(song, doc_.transport().cursor()));
  switch (*what) {
    case Thing::notes: {
      const auto notes = doc_.pitchDesk().chosen();
      return noteWords(song, notes.front(), doc_.pitchDesk()) + more(notes.size());
    }
    case Thing::pins: return tr("pin, %1").arg(placeWords(song, start())) + more(chosen.pins().size());
    case Thing::point: return tr("point of the envelope, %1").arg(placeWords(song, start()));
    case Thing::span:
      return named(tr("silent span"), song.find(*chosen.span())->label) + ", " + placeWords(song, start());
    case Thing::marker:
      return named(tr("marker"), song.find(*chosen.marker())->name) + ", " + placeWords(song, start());
    case Thing::clips: {
      const auto ids = chosen.clips();
      const auto* set = song.setOf(ids.front());
      const auto* clip = song.find(ids.front());
      return clipWords(song, *clip, static_cast<std::size_t>(clip - set->clips->data())) + more(ids.size());
    }
    case Thing::seam: {
      const auto* clip = chosen.seamClip();
      return seamWords(song, *clip, doc_.seamDesk().measureOf(clip->id));
    }
    case Thing::hit: return hitWords(song, *chosen.plannedHit());
    case Thing::range: break;
  }
  return tr("range, %1 to %2").arg(placeWords(song, chosen.range().start), placeWords(song, chosen.range().end));
}

}  // namespace ochron

#include "document/this_desk.h"

#include <cmath>

#include "document/clip_desk.h"
#include "document/hit_desk.h"
#include "document/pin_desk.h"
#include "document/pitch_desk.h"
#include "document/seam_desk.h"
#include "document/thing_words.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "edits/mark_edits.h"
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
      const auto& all = doc_.seamDesk().measures();
      const auto measure = all.find(clip->id);
      return seamWords(song, *clip, measure == all.end() ? nullptr : &measure->second);
    }
    case Thing::hit: return hitWords(song, *chosen.plannedHit());
    case Thing::range: break;
  }
  return tr("range, %1 to %2").arg(placeWords(song, chosen.range().start), placeWords(song, chosen.range().end));
}

}  // namespace ochron

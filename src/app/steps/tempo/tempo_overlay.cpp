#include "steps/tempo/tempo_overlay.h"

#include <algorithm>
#include <cmath>

#include "canvas/place_drag.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/follow_edits.h"
#include "edits/stretch_edits.h"
#include "seams/apply_plan.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kReach = 6;        // pixels
constexpr double kSnapReach = 14;   // pixels
constexpr double kBeatsApart = 44;  // pixels, from where on beats can be taken hold of

/// Dragging a bar line: the edit is made anew at every move from the song it began with.
class LineDrag : public PlaceDrag {
 public:
  LineDrag(Document& doc, ViewState& view, QPointF from, Ticks line, Tell tell)
      : PlaceDrag(doc, view, from, std::move(tell)), line_(line) {}

 protected:
  void drag(double pixels, Qt::KeyboardModifiers modifiers) override {
    const auto was = base_->tempo.toFrames(line_);
    auto at = moved(was, pixels);
    bool snapped = false;
    if (!modifiers.testFlag(Qt::ShiftModifier)) {
      const Frames reach{static_cast<std::int64_t>(kSnapReach * view_.framesPerPixel())};
      if (const auto attack = doc_.tempoDesk().attackNear(at, reach)) {
        at = *attack;
        snapped = true;
      }
    }
    const bool all = modifiers.testFlag(Qt::AltModifier);
    const auto next = all ? shiftBars(*base_, line_, at) : setAnchor(*base_, line_, at);
    if (!next) return refuse(next.error());
    doc_.edit(all ? TempoDesk::tr("Move all bars") : TempoDesk::tr("Tie a bar line"), next, "bar line");
    const auto place = next->tempo.position(line_);
    doc_.tempoDesk().setBar(place.bar);
    const auto before = next->tempo.bpmAt(line_ - Ticks{1});
    tell_(TempoDesk::tr(
              "Bar %1%2 %3 ms%4 \u00b7 %5 BPM before, %6 after \u00b7 Shift: freely \u00b7 Alt: all bars, no anchor")
              .arg(place.bar + 1)
              .arg(place.beat == 0 ? QString() : QStringLiteral(".%1").arg(place.beat + 1))
              .arg(signedMs(msFromFrames(at - was, base_->rate)))
              .arg(snapped ? TempoDesk::tr(", on an attack") : QString())
              .arg(before, 0, 'f', 1)
              .arg(next->tempo.bpmAt(line_), 0, 'f', 1));
  }

 private:
  Ticks line_;
};

/// Fitting a clip by hand: its other end holds.
class FitDrag : public PlaceDrag {
 public:
  FitDrag(Document& doc, ViewState& view, QPointF from, TempoOverlay::FitSpot spot, Tell tell)
      : PlaceDrag(doc, view, from, std::move(tell)), spot_(spot) {}

 protected:
  void drag(double pixels, Qt::KeyboardModifiers modifiers) override {
    const auto* clip = base_->find(spot_.clip);
    if (!clip) return;
    const auto was = clip->toSong(spot_.take);
    auto to = moved(was, pixels);
    if (!modifiers.testFlag(Qt::ShiftModifier)) to = onBeat(to);
    const auto hold = spot_.start ? clip->end() : clip->start;
    const double ratio = static_cast<double>((to - hold).value) / static_cast<double>((was - hold).value);
    if (!kStretchRatioRange.accepts(ratio))
      return tell_(TempoDesk::tr("A clip can be made a tenth to ten times as long."));
    const Frames length{std::llround(static_cast<double>(clip->length.value) * ratio)};
    const auto range =
        spot_.start ? FrameRange{clip->end() - length, clip->end()} : FrameRange{clip->start, clip->start + length};
    const auto next = fitClipTo(*base_, spot_.clip, range);
    if (!next) return refuse(next.error());
    if (!doc_.edit(TempoDesk::tr("Fit a clip"), next, "fit")) return;
    const auto& map = next->tempo;
    const double bars = static_cast<double>((map.toTicks(range.end) - map.toTicks(range.start)).value) /
                        static_cast<double>(map.meterOfBar(map.barAt(range.start)).barLength().value);
    tell_(TempoDesk::tr("%1 % as long, %2 bars \u00b7 Shift: not onto a beat \u00b7 Escape takes it back")
              .arg(100 * ratio, 0, 'f', 1)
              .arg(bars, 0, 'f', 2));
  }

 private:
  Frames onBeat(Frames at) const {
    const auto& map = base_->tempo;
    const auto ticks = map.toTicks(at);
    const int bar = map.barAt(ticks);
    const auto beat = map.meterOfBar(bar).beatLength();
    const auto into = ticks - map.barStart(bar);
    const auto line = map.barStart(bar) + beat * ((into + beat / 2).value / beat.value);
    const auto frame = map.toFrames(line);
    return std::abs(view_.xOf(frame) - view_.xOf(at)) <= kSnapReach ? frame : at;
  }

  TempoOverlay::FitSpot spot_;
};

/// Marks so near to each other that they are a band.
bool crowded(const std::vector<double>& places) {
  constexpr double kRoom = 14;  // px a mark
  return places.size() > 1 && places.back() - places.front() < kRoom * static_cast<double>(places.size() - 1);
}

}  // namespace

bool TempoOverlay::fits() const {
  return shown() && doc_.tempoDesk().recordingFollows() && !doc_.transport().original();
}

std::optional<TempoOverlay::FitSpot> TempoOverlay::fitAt(QPointF point, const MicSet& set,
                                                         std::optional<HitRef> hit) const {
  if (!fits() || point.x() < kGutterWidth) return {};
  for (const auto& c : *set.clips) {
    const double x0 = view_.xOf(c.start);
    const double x1 = view_.xOf(c.end());
    if (point.x() < x0 - kReach || point.x() > x1 + kReach) continue;
    if (std::abs(point.x() - x1) < kReach) return FitSpot{c.id, c.played().end, false};
    if (std::abs(point.x() - x0) < kReach) return FitSpot{c.id, c.played().start, true};
    if (!hit || hit->take != c.take) continue;
    for (const auto& h : *doc_.song().hitsIn(set, c))
      if (h.id == hit->hit && c.played().contains(h.at) && h.at > c.played().start) return FitSpot{c.id, h.at, false};
  }
  return {};
}

std::unique_ptr<Gesture> TempoOverlay::grabFit(QPointF point, const FitSpot& spot,
                                               std::function<void(const QString&)> tell) const {
  return std::make_unique<FitDrag>(doc_, view_, point, spot, std::move(tell));
}

void TempoOverlay::paint(QPainter& p, double top, double bottom) const {
  if (!shown()) return;
  const auto& sheet = Theme::get().sheet();
  const auto& map = doc_.song().tempo;
  const auto seen = view_.visible();
  p.setRenderHint(QPainter::Antialiasing, false);
  for (const auto& a : *doc_.song().anchors) {
    const auto f = map.toFrames(a.at);
    if (!seen.contains(f)) continue;
    const double x = std::floor(view_.xOf(f)) + 0.5;
    p.setPen(QPen(sheet.selection, 1.2));
    p.drawLine(QPointF(x, top), QPointF(x, bottom));
  }
  if (const auto& heard = doc_.tempoDesk().heard()) {
    auto tone = sheet.selection;
    tone.setAlphaF(0.75F);
    std::vector<Frames> downbeats;
    std::vector<double> places;
    for (const double d : heard->tempo.downbeats)
      if (const auto f = doc_.tempoDesk().heardFrame(d); seen.contains(f)) {
        downbeats.push_back(f);
        places.push_back(view_.xOf(f));
      }
    if (crowded(places)) downbeats.clear();
    for (const auto f : downbeats) {
      const auto at = map.toTicks(f);
      const auto line = map.toFrames(map.barStart(map.barAt(at + map.meterOfBar(map.barAt(at)).barLength() / 2)));
      if (std::abs(view_.xOf(line) - view_.xOf(f)) < 1.5) continue;  // the bar line stands there
      p.setPen(QPen(tone, 1.2, Qt::DashLine));
      const double x = std::floor(view_.xOf(f)) + 0.5;
      p.drawLine(QPointF(x, top), QPointF(x, bottom));
    }
  }
  const auto ring = [&](Ticks at, const QColor& colour, double wide) {
    const double x = view_.xOf(map.toFrames(at));
    p.setPen(QPen(colour, wide));
    p.drawLine(QPointF(x, top), QPointF(x, bottom));
  };
  p.setRenderHint(QPainter::Antialiasing);
  if (const auto bar = doc_.tempoDesk().bar()) ring(map.barStart(*bar), sheet.ink, 1.6);
  if (hovered_) ring(*hovered_, sheet.selection, 2.4);
}

void TempoOverlay::paintMarks(QPainter& p, double y) const {
  if (!shown()) return;
  const auto& sheet = Theme::get().sheet();
  const auto& map = doc_.song().tempo;
  const auto seen = view_.visible();
  std::vector<double> heardAt;
  std::vector<double> anchoredAt;
  if (const auto& heard = doc_.tempoDesk().heard(); heard && doc_.song().anchors->empty())
    for (const double d : heard->tempo.downbeats)
      if (const auto f = doc_.tempoDesk().heardFrame(d); seen.contains(f)) heardAt.push_back(view_.xOf(f));
  for (const auto& a : *doc_.song().anchors)
    if (const auto f = map.toFrames(a.at); seen.contains(f)) anchoredAt.push_back(view_.xOf(f));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(sheet.selection, 1.4));
  const auto draw = [&](const std::vector<double>& places, bool filled) {
    const bool ticks = crowded(places);
    p.setBrush(filled ? sheet.selection : sheet.panel);
    for (const double x : places)
      if (ticks)  // more would hide the numbers
        p.drawLine(QPointF(x, y + 3), QPointF(x, y + 7));
      else
        p.drawPolygon(QPolygonF{{x, y - 4.5}, {x + 4.5, y}, {x, y + 4.5}, {x - 4.5, y}});
  };
  draw(heardAt, false);
  draw(anchoredAt, true);
}

std::optional<Ticks> TempoOverlay::at(QPointF point) const {
  if (!shown() || fits() || point.x() < kGutterWidth || doc_.song().tracks.empty()) return {};
  const auto& map = doc_.song().tempo;
  const auto now = map.toTicks(view_.frameAt(point.x()));
  const int bar = map.barAt(now);
  std::optional<Ticks> best;
  double least = kReach;
  const auto consider = [&](Ticks t) {
    const double away = std::abs(view_.xOf(map.toFrames(t)) - point.x());
    if (away >= least) return;
    least = away;
    best = t;
  };
  const auto meter = map.meterOfBar(bar);
  const double beat =
      view_.xOf(map.toFrames(map.barStart(bar) + meter.beatLength())) - view_.xOf(map.toFrames(map.barStart(bar)));
  if (beat >= kBeatsApart)
    for (int i = 1; i < meter.beats; ++i) consider(map.barStart(bar) + meter.beatLength() * i);
  consider(map.barStart(bar));
  consider(map.barStart(bar + 1));
  return best;
}

std::unique_ptr<Gesture> TempoOverlay::grab(QPointF point, Ticks line, std::function<void(const QString&)> tell) const {
  doc_.tempoDesk().setBar(doc_.song().tempo.barAt(line));
  return std::make_unique<LineDrag>(doc_, view_, point, line, std::move(tell));
}

bool TempoOverlay::hover(std::optional<Ticks> line) {
  const bool changed = line != hovered_;
  hovered_ = line;
  return changed;
}

}  // namespace ochron

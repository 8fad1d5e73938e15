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

bool shown(const Document& doc) { return doc.step() == Step::tempo; }

/// Marks so near to each other that they are a band.
bool crowded(const std::vector<double>& places) {
  constexpr double kRoom = 14;  // px a mark
  return places.size() > 1 && places.back() - places.front() < kRoom * static_cast<double>(places.size() - 1);
}

}  // namespace

void TempoOverlay::paint(QPainter& p) const {
  if (!shown(doc_)) return;
  constexpr double top = 0;
  const double bottom =
      std::min<double>(lanes_.height(), lanes_.laneBox(static_cast<int>(doc_.song().tracks.size())).top());
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

void paintAnchorMarks(QPainter& p, Document& doc, const ViewState& view, double y) {
  if (!shown(doc)) return;
  const auto& sheet = Theme::get().sheet();
  const auto& map = doc.song().tempo;
  const auto seen = view.visible();
  std::vector<double> heardAt;
  std::vector<double> anchoredAt;
  if (const auto& heard = doc.tempoDesk().heard(); heard && doc.song().anchors->empty())
    for (const double d : heard->tempo.downbeats)
      if (const auto f = doc.tempoDesk().heardFrame(d); seen.contains(f)) heardAt.push_back(view.xOf(f));
  for (const auto& a : *doc.song().anchors)
    if (const auto f = map.toFrames(a.at); seen.contains(f)) anchoredAt.push_back(view.xOf(f));
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
  if (!shown(doc_) || (doc_.tempoDesk().recordingFollows() && !doc_.transport().original()) ||
      point.x() < kGutterWidth || doc_.song().tracks.empty())
    return {};
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

void TempoOverlay::chooseSpot(const Ticks& line) { doc_.tempoDesk().setBar(doc_.song().tempo.barAt(line)); }

std::unique_ptr<Gesture> TempoOverlay::take(const Ticks& line, const Press& press) {
  chooseSpot(line);
  return std::make_unique<LineDrag>(doc_, view_, press.at, line, press.tell);
}

}  // namespace ochron

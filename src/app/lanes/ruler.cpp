#include "lanes/ruler.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/thing_words.h"
#include "document/transport.h"
#include "edits/mark_edits.h"
#include "steps/tempo/tempo_overlay.h"
#include "theme/theme.h"
#include "time/grid.h"

namespace ochron {
namespace {

constexpr int kBarsHeight = 25;
constexpr int kMarksHeight = 17;

/// Dragging a marker, a section, or a section's end.
class MarkDrag : public Gesture {
 public:
  MarkDrag(Document& doc, ViewState& view, QPointF from, MarkerId marker, bool end,
           std::function<void(const QString&)> tell)
      : doc_(doc),
        view_(view),
        from_(from),
        end_(end),
        tell_(std::move(tell)),
        base_(doc.version()),
        marker_(*base_->find(marker)) {}

  void move(QPointF point, Qt::KeyboardModifiers modifiers) override {
    if (!moved_ && std::abs(point.x() - from_.x()) < 3) return;
    moved_ = true;
    const auto& map = base_->tempo;
    auto at = view_.frameAt(view_.xOf(map.toFrames(end_ ? marker_.end() : marker_.at)) + point.x() - from_.x());
    if (!modifiers.testFlag(Qt::ShiftModifier) && doc_.clipDesk().settings().snap.on)
      at = nearestLine(map, Grid{4, StepKind::straight, 50}, map.toTicks(at)).frame;
    auto next = marker_;
    if (end_)
      next.length = std::max(Ticks{1}, map.toTicks(at) - marker_.at);
    else
      next.at = map.toTicks(at);
    doc_.edit(Ruler::tr("Move \"%1\"").arg(QString::fromStdString(marker_.name)), setMarker(*base_, next), "marker");
    const auto place = map.position(end_ ? next.end() : next.at);
    tell_(Ruler::tr("\"%1\" to %2.%3 \u00b7 Shift: free \u00b7 Escape takes it back")
              .arg(QString::fromStdString(marker_.name))
              .arg(place.bar + 1)
              .arg(place.beat + 1));
  }

 private:
  Document& doc_;
  ViewState& view_;
  QPointF from_;
  bool end_;
  std::function<void(const QString&)> tell_;
  std::shared_ptr<const Song> base_;
  Marker marker_;
  bool moved_ = false;
};

}  // namespace

Ruler::Ruler(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setFocusPolicy(Qt::ClickFocus);
  setAccessibleName(tr("Bar ruler"));
  setToolTip(tr("Click to put the play line, drag to choose a range"));
  connect(&document, &Document::songChanged, this, &Ruler::fit);
  connect(&document.tempoDesk(), &TempoDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::stepChanged, this, qOverload<>(&QWidget::update));
  fit();
}

void Ruler::fit() { setFixedHeight(kBarsHeight + (doc_.song().markers.empty() ? 0 : kMarksHeight)); }

std::optional<Ruler::MarkSpot> Ruler::markAt(QPointF point) const {
  if (point.y() < kBarsHeight || point.x() < kGutterWidth) return {};
  const auto& map = doc_.song().tempo;
  std::optional<MarkSpot> found;
  for (const auto& m : doc_.song().markers) {
    const double a = view_.xOf(map.toFrames(m.at));
    const double b = view_.xOf(map.toFrames(m.end()));
    if (m.length.value > 0 && std::abs(point.x() - b) < 5) return MarkSpot{m.id, MarkPart::end};
    if (point.x() >= a - 5 && point.x() <= (m.length.value > 0 ? b : a + 60)) found = MarkSpot{m.id, MarkPart::whole};
  }
  return found;
}

void Ruler::paintMarks(QPainter& p) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto& map = doc_.song().tempo;
  const double y = kBarsHeight;
  p.setFont(theme.font(10.5, 500));
  for (std::size_t i = 0; i < doc_.song().markers.size(); ++i) {
    const auto& m = doc_.song().markers[i];
    const double a = view_.xOf(map.toFrames(m.at));
    const double b = view_.xOf(map.toFrames(m.end()));
    const bool chosen = doc_.selection().marker() == m.id;
    const auto name = QString::fromStdString(m.name);
    const auto tone = chosen ? sheet.selection : sheet.ink;
    p.setRenderHint(QPainter::Antialiasing);
    if (m.length.value > 0) {
      const QRectF box(a + 0.5, y + 1.5, std::max(4.0, b - a - 1), kMarksHeight - 5);
      auto fill = tone;
      fill.setAlphaF(chosen ? 0.22F : 0.10F);
      p.setPen(QPen(tone, chosen ? 1.4 : 1));
      p.setBrush(fill);
      p.drawRoundedRect(box, 3, 3);
      const double from = std::max<double>(kGutterWidth, a) + 6;
      p.setPen(tone);
      p.drawText(QRectF(from, y, b - from - 4, kMarksHeight - 2), Qt::AlignVCenter,
                 p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(b - from) - 6));
    } else {
      p.setPen(QPen(tone, 1.2));
      p.drawLine(QPointF(a, y), QPointF(a, y + kMarksHeight));
      p.setPen(Qt::NoPen);
      p.setBrush(tone);
      p.drawPolygon(QPolygonF{{a, y + 2}, {a + 7, y + 6}, {a, y + 10}});
      const double wide = p.fontMetrics().horizontalAdvance(name);
      p.setBrush(sheet.panel);  // it may stand over a section
      p.drawRect(QRectF(a + 8, y + 2, wide + 6, kMarksHeight - 6));
      p.setPen(tone);
      p.drawText(QPointF(a + 11, y + 12), name);
    }
  }
}

void Ruler::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(rect(), sheet.panel);
  const auto& map = doc_.song().tempo;
  const auto seen = view_.visible();
  const double quarter = 60.0 / map.bpmAt(map.toTicks(seen.start)) * map.rate() / view_.framesPerPixel();
  p.setClipRect(kGutterWidth, 0, width() - kGutterWidth, height());
  if (!doc_.selection().range().empty()) {
    const double a = view_.xOf(doc_.selection().range().start);
    p.fillRect(QRectF(a, 0, view_.xOf(doc_.selection().range().end) - a, height()), sheet.selectionSoft);
  }
  paintRules(p, kBarsHeight - 6, kBarsHeight, false);
  if (!doc_.song().markers.empty()) paintMarks(p);
  int every = 1;
  while (quarter * 4 * every < 34) every *= 2;
  const int last = map.barAt(seen.end);
  for (int bar = map.barAt(seen.start); bar <= last; ++bar) {
    if ((bar % every + every) % every != 0) continue;
    p.setFont(theme.font(12, 600));
    p.setPen(bar < 0 ? sheet.note : sheet.ink);
    p.drawText(QPointF(view_.xOf(map.toFrames(map.barStart(bar))) + 5, 16), QString::number(bar + 1));
    const auto meter = map.meterOfBar(bar);
    if (quarter < 30) continue;
    p.setFont(theme.font(10.5));
    p.setPen(sheet.note);
    for (int beat = 1; beat < meter.beats; ++beat)
      p.drawText(QPointF(view_.xOf(map.toFrames(map.barStart(bar) + meter.beatLength() * beat)) + 4, 16),
                 QString::number(beat + 1));
  }
  paintAnchorMarks(p, doc_, view_, kBarsHeight - 7);
  if (quarter > 600) {  // closer than beats: time in milliseconds, relative to the play line
    double step = 0.1;
    const double pixelsPerMs = map.rate() / 1000.0 / view_.framesPerPixel();
    for (const double s : {0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0})
      if (step = s; s * pixelsPerMs >= 70) break;
    const double origin = view_.xOf(playLine());
    p.setFont(theme.font(10.5));
    for (auto i = static_cast<int>(std::ceil((kGutterWidth - origin) / (step * pixelsPerMs)));
         origin + i * step * pixelsPerMs < width(); ++i) {
      const double x = origin + i * step * pixelsPerMs;
      p.setPen(sheet.rule);
      p.drawLine(QPointF(x, kBarsHeight - 5), QPointF(x, kBarsHeight - 1));
      p.setPen(sheet.note);
      if (i != 0)
        p.drawText(QRectF(x - 34, 2, 68, 16), Qt::AlignCenter,
                   tr("%1%2 ms").arg(i > 0 ? "+" : "\u2212").arg(std::abs(i * step), 0, 'f', step < 1 ? 1 : 0));
    }
  }
  p.setClipping(false);
  p.setPen(sheet.rule);
  p.drawLine(0, height() - 1, width(), height() - 1);
  const double x = view_.xOf(playLine());
  if (x >= kGutterWidth - 1) {
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(sheet.selection);
    QPainterPath flag;
    flag.moveTo(x - 5, 12), flag.lineTo(x + 5, 12), flag.lineTo(x + 5, 18), flag.lineTo(x, kBarsHeight - 1),
        flag.lineTo(x - 5, 18);
    flag.closeSubpath();
    p.drawPath(flag);
  }
}

void Ruler::mousePressEvent(QMouseEvent* event) {
  if (event->position().x() < kGutterWidth) return;
  setFocus();
  if (const auto mark = markAt(event->position())) {
    doc_.selection().chooseMarker(mark->marker);
    gesture_ = std::make_unique<MarkDrag>(doc_, view_, event->position(), mark->marker, mark->part == MarkPart::end,
                                          [this](const QString& s) { emit gestureTold(s); });
    return;
  }
  doc_.selection().setRangeSets({});
  anchor_ = view_.frameAt(event->position().x());
  doc_.selection().setRange({});
  doc_.transport().setCursor(anchor_);
  if (doc_.transport().player().engine().playing()) doc_.transport().playFrom(anchor_);
}

void Ruler::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return;
  if (gesture_) return gesture_->move(event->position(), event->modifiers());
  const auto at = view_.frameAt(std::max<double>(kGutterWidth, event->position().x()));
  // Ranges snap to beats.
  const auto& map = doc_.song().tempo;
  const auto snap = [&](Frames f) { return nearestLine(map, Grid{4, StepKind::straight, 50}, map.toTicks(f)).frame; };
  const auto a = snap(std::min(anchor_, at));
  const auto b = snap(std::max(anchor_, at));
  if (b > a) {
    doc_.selection().setRange({a, b});
    doc_.transport().setCursor(a);
  }
}

std::vector<ReadItem> Ruler::readItems() const {
  const auto& map = doc_.song().tempo;
  std::vector<ReadItem> out;
  for (const auto& m : doc_.song().markers) {
    const auto from = map.toFrames(m.at);
    const auto name = QString::fromStdString(m.name);
    const double a = view_.xOf(from);
    const double b = m.length.value > 0 ? view_.xOf(map.toFrames(m.end())) : a + kMarksHeight;
    out.push_back({m.length.value > 0
                       ? tr("section %1, %2 to %3")
                             .arg(name, placeWords(doc_.song(), from), placeWords(doc_.song(), map.toFrames(m.end())))
                       : tr("marker %1, %2").arg(name, placeWords(doc_.song(), from)),
                   QRectF(a, kBarsHeight, b - a, kMarksHeight), doc_.selection().marker() == m.id,
                   [this, id = m.id] { doc_.selection().chooseMarker(id); }});
  }
  const int first = map.barAt(view_.frameAt(kGutterWidth));
  const int last = map.barAt(view_.frameAt(width()));
  const int here = map.barAt(doc_.transport().cursor());
  for (int bar = std::max(0, first); bar <= last; ++bar) {
    const auto at = map.toFrames(map.barStart(bar));
    const double x = view_.xOf(at);
    out.push_back({tr("bar %1").arg(bar + 1),
                   QRectF(x, 0, view_.xOf(map.toFrames(map.barStart(bar + 1))) - x, kBarsHeight), bar == here,
                   [this, at] { doc_.transport().setCursor(at); }});
  }
  return out;
}

}  // namespace ochron

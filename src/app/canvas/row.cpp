#include "canvas/row.h"

#include <QKeyEvent>
#include <QPainter>
#include <QWheelEvent>
#include <cmath>

#include "canvas/preview_turns.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "theme/theme.h"
#include "time/grid.h"

namespace ochron {

Row::Row(Document& document, ViewState& view, QWidget* parent) : QWidget(parent), doc_(document), view_(view) {
  connect(&view, &ViewState::changed, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::songChanged, this, qOverload<>(&QWidget::update));
  new PreviewTurns(document, *this, {[this] { return leads(); }, [this] { return dragging(); }});
  connect(&document, &Document::mediaChanged, this, qOverload<>(&QWidget::update));
  connect(&document.selection(), &Selection::changed, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
  connect(&document, &Document::gestureOver, this, [this] {
    if (!dragging()) return;
    dragEnded();
    emit gestureTold({});
  });
}

void Row::showPlayLine(Frames at) {
  if (at == playLine_) return;
  const auto strip = [&](Frames f) { return QRect(static_cast<int>(playX(f)) - 7, 0, 15, height()); };
  update(strip(playLine_));
  playLine_ = at;
  update(strip(at));
}

void Row::drop() {
  dragEnded();
  hold_ = {};
  emit gestureTold({});
}

bool Row::event(QEvent* event) {
  if (event->type() == QEvent::MouseButtonPress && static_cast<QMouseEvent*>(event)->button() == Qt::LeftButton)
    hold_ = doc_.takeHold();
  if (event->type() == QEvent::Hide && dragging()) drop();
  if (event->type() == QEvent::ShortcutOverride && dragging() &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape)
    event->accept();
  return QWidget::event(event);
}

void Row::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Escape || !dragging()) return QWidget::keyPressEvent(event);
  dragEnded();
  doc_.cancelGesture();
  hold_ = {};
  emit gestureTold({});
}

void Row::wheelEvent(QWheelEvent* event) {
  const auto turn = event->angleDelta();
  const double steps = (turn.y() != 0 ? turn.y() : turn.x()) / 120.0;
  const bool ctrl = event->modifiers() & Qt::ControlModifier;
  const bool shift = event->modifiers() & Qt::ShiftModifier;
  if (ctrl && shift)
    view_.setLaneHeight(static_cast<int>(std::lround(view_.laneHeight() * std::pow(1.15, steps))));
  else if (ctrl)
    view_.zoomAt(std::max<double>(kGutterWidth, event->position().x()), std::pow(0.8, steps));
  else if (shift)
    view_.setLaneScroll(view_.laneScroll() - static_cast<int>(steps * 40));
  else
    view_.scrollBy(-steps * 80);
  event->accept();
}

void Row::paintEmptyRow(QPainter& painter, const QString& name) const {
  const auto& theme = Theme::get();
  painter.fillRect(rect(), theme.sheet().paper);
  painter.fillRect(QRect(0, 0, kGutterWidth, height()), theme.sheet().panel);
  painter.setFont(theme.font(12.5, 600));
  painter.setPen(theme.sheet().ink);
  painter.drawText(QPointF(14, 17), name);
}

void Row::paintRules(QPainter& painter, double y0, double y1, bool grid) const {
  const auto& sheet = Theme::get().sheet();
  const auto& map = doc_.song().tempo;
  const auto seen = view_.visible();
  const auto from = map.toTicks(seen.start);
  const auto to = map.toTicks(seen.end);
  const double pixelsPerQuarter = 60.0 / map.bpmAt(from) * map.rate() / view_.framesPerPixel();
  const auto rule = [&](Frames f, const QColor& colour) {
    const double x = std::floor(view_.xOf(f)) + 0.5;
    if (x < kGutterWidth) return;
    painter.setPen(QPen(colour, 1));
    painter.drawLine(QPointF(x, y0), QPointF(x, y1));
  };
  painter.setRenderHint(QPainter::Antialiasing, false);
  if (grid) {
    const auto& g = doc_.timingDesk().settings().grid;
    if (pixelsPerQuarter * static_cast<double>(g.step().value) / static_cast<double>(kTicksPerQuarter) >= 7)
      for (const auto& line : gridLines(map, g, from, to)) rule(line.frame, sheet.hairline);
  }
  const int last = map.barAt(to);
  int every = 1;
  while (pixelsPerQuarter * 4 * every < 24) every *= 2;
  for (int bar = map.barAt(from); bar <= last; ++bar) {
    const auto meter = map.meterOfBar(bar);
    if (pixelsPerQuarter >= 9 && !grid)
      for (int beat = 1; beat < meter.beats; ++beat)
        rule(map.toFrames(map.barStart(bar) + meter.beatLength() * beat), sheet.hairline);
    if (grid && pixelsPerQuarter >= 9)
      for (int beat = 1; beat < meter.beats; ++beat)
        rule(map.toFrames(map.barStart(bar) + meter.beatLength() * beat),
             sheet.dark ? sheet.hairline.lighter(125) : sheet.hairline.darker(106));
    if ((bar % every + every) % every == 0) rule(map.toFrames(map.barStart(bar)), sheet.rule);
  }
}

void Row::paintPlayLine(QPainter& painter, double y0, double y1) const {
  const double x = view_.xOf(playLine_);
  if (x < kGutterWidth - 1) return;
  painter.setRenderHint(QPainter::Antialiasing, true);
  painter.setPen(QPen(Theme::get().sheet().selection, 1.6));
  painter.drawLine(QPointF(x, y0), QPointF(x, y1));
}

}  // namespace ochron

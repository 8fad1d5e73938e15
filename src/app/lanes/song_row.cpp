#include "lanes/song_row.h"

#include <QMouseEvent>

#include "document/clip_desk.h"
#include "document/effect_desk.h"
#include "edits/mark_edits.h"
#include "theme/theme.h"

namespace ochron {

SongRow::SongRow(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setFixedHeight(58);
  setFocusPolicy(Qt::ClickFocus);
  setMouseTracking(true);
  connect(&document.clipDesk(), &ClipDesk::changed, this, &SongRow::refresh);
  connect(&document, &Document::stepChanged, this, &SongRow::refresh);
  connect(&document, &Document::songChanged, this, &SongRow::refresh);
  connect(&document.effectDesk(), &EffectDesk::changed, this, &SongRow::refresh);
  refresh();
}

std::optional<EnvelopeRef> SongRow::shown() const {
  if (doc_.step() == Step::print) return doc_.effectDesk().shownControl();
  const auto kind = doc_.clipDesk().shownEnvelope();
  const bool songs = kind == EnvelopeKind::songGain || kind == EnvelopeKind::songSpeed;
  return doc_.step() == Step::clips && songs ? std::optional(EnvelopeRef{*kind, {}, {}}) : std::nullopt;
}

void SongRow::refresh() {
  const auto ref = shown();
  setVisible(ref.has_value());
  if (ref) setAccessibleName(tr("Envelope: %1").arg(QString::fromStdString(scaleOf(doc_.song(), *ref).name)));
  update();
}

EnvelopeLane SongRow::lane() const {
  const auto ref = shown().value_or(EnvelopeRef{EnvelopeKind::songGain, {}, {}});
  return {ref, scaleOf(doc_.song(), ref), QRectF(kGutterWidth, 9, width() - kGutterWidth, height() - 19)};
}

void SongRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& sheet = Theme::get().sheet();
  paintEmptyRow(p);
  const auto lane = this->lane();
  const auto* insert = findInsert(doc_.song(), lane.ref.insert);
  p.setPen(sheet.ink);
  p.setFont(Theme::get().font(12, 500));
  const auto elided = [&](const QString& text) {
    return p.fontMetrics().elidedText(text, Qt::ElideRight, kGutterWidth - 20);
  };
  p.drawText(QPointF(12, 20), elided(QString::fromStdString(lane.scale.name)));
  p.setPen(sheet.note);
  p.setFont(Theme::get().font(10.5));
  p.drawText(QPointF(12, 36), elided(insert ? QString::fromStdString(insert->name) : tr("double-click: a point")));
  const auto& range = lane.scale.range;
  if (insert)
    p.drawText(QPointF(12, 51),
               elided(tr("%1 to %2").arg(envelopeText(lane.scale, range.low), envelopeText(lane.scale, range.high))));
  p.setClipRect(QRect(kGutterWidth, 0, width() - kGutterWidth, height()));
  paintRules(p, 0, height(), false);
  const auto rule = [&](double value) {
    p.setPen(QPen(sheet.rule, 1));
    p.drawLine(QPointF(kGutterWidth, lane.yOf(value)), QPointF(width(), lane.yOf(value)));
  };
  if (insert) {
    rule(range.high);
    rule(range.low);
  } else {
    rule(range.fallback);
    p.setPen(sheet.note);
    p.drawText(QPointF(kGutterWidth + 5, lane.yOf(range.fallback) - 3), envelopeText(lane.scale, range.fallback));
  }
  paintEnvelope(p, doc_, view_, lane, true);
  paintPlayLine(p, 0, height());
  p.setClipping(false);
  p.setPen(sheet.rule);
  p.drawLine(0, height() - 1, width(), height() - 1);
}

void SongRow::mousePressEvent(QMouseEvent* event) {
  setFocus();
  if (event->button() != Qt::LeftButton) return;
  if (const auto spot = envelopeSpot(doc_, view_, lane(), event->position()))
    gesture_ = envelopeDrag(doc_, view_, event->position(), *spot, [this](const QString& s) { emit gestureTold(s); });
}

void SongRow::mouseMoveEvent(QMouseEvent* event) {
  if (gesture_) return gesture_->move(event->position(), event->modifiers());
  setCursor(envelopeSpot(doc_, view_, lane(), event->position()) ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

void SongRow::mouseDoubleClickEvent(QMouseEvent* event) { envelopeDoubleClick(doc_, view_, lane(), event->position()); }

}  // namespace ochron

#include "steps/kit/pattern_card.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QPainter>
#include <cmath>

#include "actions/actions.h"
#include "actions/this_menu.h"
#include "document/pattern_desk.h"
#include "document/wording.h"
#include "theme/theme.h"

namespace ochron {
namespace {

/// "2 bars", "3 beats".
QString lengthOf(const Song& song, const Pattern& pattern) {
  const auto meter = song.tempo.meters().front().meter;
  const double beats = static_cast<double>(pattern.length.value) / static_cast<double>(meter.beatLength().value);
  const double bars = beats / meter.beats;
  const auto whole = [](double x) { return std::abs(x - std::round(x)) < 0.01; };
  if (whole(bars)) return counted(static_cast<std::size_t>(std::lround(bars)), "bar", "bars");
  if (whole(beats)) return counted(static_cast<std::size_t>(std::lround(beats)), "beat", "beats");
  return PatternCard::tr("%1 beats").arg(beats, 0, 'f', 1);
}

}  // namespace

PatternCard::PatternCard(Document& document, PatternId pattern, QWidget* parent)
    : QWidget(parent), doc_(document), pattern_(pattern), lay_(new QToolButton(this)) {
  setFocusPolicy(Qt::StrongFocus);
  setProperty(kPressedByKeys, true);
  setAttribute(Qt::WA_Hover);
  setFixedHeight(62);
  setCursor(Qt::PointingHandCursor);
  lay_->setText(tr("lay"));
  lay_->setObjectName("lay pattern");
  lay_->setProperty("plain", true);
  lay_->setFocusPolicy(Qt::TabFocus);
  lay_->setFixedSize(lay_->fontMetrics().horizontalAdvance(lay_->text()) + 18, 22);
  connect(lay_, &QToolButton::clicked, this, [this] {
    doc_.patternDesk().choose(pattern_);
    Actions::of(this)->trigger("patterns.lay");
  });
  refresh();
}

void PatternCard::refresh() {
  const auto* p = doc_.song().find(pattern_);
  if (!p) return;
  const auto name = QString::fromStdString(p->name);
  setObjectName("pattern " + name);
  setAccessibleName(tr("Pattern %1").arg(name));
  setAccessibleDescription(
      tr("%1, %2").arg(lengthOf(doc_.song(), *p), counted(p->strokes->size(), "stroke", "strokes")));
  setToolTip(tr("Double-click, or press \"lay\": it is laid at the play line, over what is there"));
  lay_->setAccessibleName(tr("Lay %1 at the play line").arg(name));
  update();
}

void PatternCard::resizeEvent(QResizeEvent*) { lay_->move(width() - lay_->width() - 6, 6); }

void PatternCard::paintEvent(QPaintEvent*) {
  const auto* pattern = doc_.song().find(pattern_);
  if (!pattern) return;
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const bool chosen = doc_.patternDesk().chosen() == pattern;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(chosen ? sheet.selection : underMouse() ? sheet.inkSoft : sheet.rule, chosen ? 1.5 : 1));
  p.setBrush(sheet.field);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.75, 0.75, -0.75, -0.75), 5, 5);
  if (hasFocus()) {
    p.setPen(QPen(sheet.selection, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(3, 3, -3, -3), 4, 4);
  }
  const double room = lay_->x() - 16;
  p.setFont(theme.font(12, 600));
  p.setPen(sheet.ink);
  p.drawText(QRectF(10, 6, room, 16), Qt::AlignVCenter,
             p.fontMetrics().elidedText(QString::fromStdString(pattern->name), Qt::ElideRight, static_cast<int>(room)));
  p.setFont(theme.font(10.5));
  p.setPen(sheet.note);
  p.drawText(
      QRectF(10, 22, width() - 20, 14), Qt::AlignVCenter,
      tr("%1 \u00b7 %2").arg(lengthOf(doc_.song(), *pattern), counted(pattern->strokes->size(), "stroke", "strokes")));
  paintStrokes(p, QRectF(10, 39, width() - 20, 17), *pattern, chosen);
}

void PatternCard::paintStrokes(QPainter& p, const QRectF& into, const Pattern& pattern, bool chosen) const {
  const auto& sheet = Theme::get().sheet();
  const auto xOf = [&](Ticks t) {
    return into.left() + into.width() * static_cast<double>(t.value) / static_cast<double>(pattern.length.value);
  };
  const auto meter = doc_.song().tempo.meters().front().meter;
  constexpr double kRoomForBeats = 5;  // pixels between two of them
  const auto beat = meter.beatLength();
  const auto line = xOf(beat) - xOf(Ticks{0}) < kRoomForBeats ? Ticks{beat.value * meter.beats} : beat;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(sheet.rule);
  p.drawLine(into.bottomLeft(), into.bottomRight());
  if (xOf(line) - xOf(Ticks{0}) >= kRoomForBeats)
    for (auto t = line; t < pattern.length; t = t + line)
      p.drawLine(QPointF(xOf(t), into.bottom() - 4), QPointF(xOf(t), into.bottom()));
  const auto* set = doc_.song().find(pattern.set);
  p.setPen(QPen(chosen ? sheet.selection : sheet.inkSoft, 2));
  for (const auto& s : *pattern.strokes) {
    const auto hit = set ? doc_.song().hitAtStart(*set, s.clip) : std::nullopt;
    const double strength = hit && hit->strength > 0 ? std::clamp(hit->strength, 0.25, 1.0) : 0.6;
    p.drawLine(QPointF(xOf(s.at), into.bottom() - 1), QPointF(xOf(s.at), into.bottom() - strength * into.height()));
  }
}

void PatternCard::mousePressEvent(QMouseEvent*) {
  setFocus();
  doc_.patternDesk().choose(pattern_);
}

void PatternCard::mouseDoubleClickEvent(QMouseEvent*) { Actions::of(this)->trigger("patterns.lay"); }

void PatternCard::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space)
    doc_.patternDesk().choose(pattern_);
  else
    QWidget::keyPressEvent(event);
}

void PatternCard::contextMenuEvent(QContextMenuEvent* event) {
  doc_.patternDesk().choose(pattern_);
  popUp(this, event->globalPos(),
        {"patterns.lay", "patterns.layoften", "-", "patterns.vary", "patterns.shuffle", "-", "patterns.rename",
         "patterns.duplicate", "patterns.midi", "-", "patterns.remove"});
}

}  // namespace ochron

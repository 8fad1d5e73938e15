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
    : KitCard(62, parent), doc_(document), pattern_(pattern), lay_(new QToolButton(this)) {
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
  readStrengths(*p);
  update();
}

/// Looking the strokes' hits up takes a walk through all hits for each: only when there are others.
void PatternCard::readStrengths(const Pattern& pattern) {
  const auto* set = doc_.song().find(pattern.set);
  if (!set) return strengths_.clear();
  const auto& hits = doc_.song().hitsIn(*set, pattern.strokes->front().clip);
  if (strengths_.size() == pattern.strokes->size() && readOf_.sameObject(pattern.strokes) && readFrom_.sameObject(hits))
    return;
  readOf_ = pattern.strokes;
  readFrom_ = hits;
  strengths_.clear();
  for (const auto& s : *pattern.strokes) {
    constexpr double kUnknown = 0.6;
    constexpr double kSeen = 0.25;
    const auto hit = doc_.song().hitAtStart(*set, s.clip);
    strengths_.push_back(hit && hit->strength > 0 ? std::clamp(hit->strength, kSeen, 1.0) : kUnknown);
  }
}

void PatternCard::resizeEvent(QResizeEvent*) { lay_->move(width() - lay_->width() - 6, 6); }

void PatternCard::paintEvent(QPaintEvent*) {
  const auto* pattern = doc_.song().find(pattern_);
  if (!pattern) return;
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const bool chosen = doc_.patternDesk().chosen() == pattern;
  QPainter p(this);
  paintFrame(p, chosen);
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
  p.setPen(QPen(chosen ? sheet.selection : sheet.inkSoft, 2));
  for (std::size_t i = 0; i < strengths_.size(); ++i) {
    const double x = xOf((*pattern.strokes)[i].at);
    p.drawLine(QPointF(x, into.bottom() - 1), QPointF(x, into.bottom() - strengths_[i] * into.height()));
  }
}

void PatternCard::choose() { doc_.patternDesk().choose(pattern_); }

void PatternCard::mouseDoubleClickEvent(QMouseEvent*) { Actions::of(this)->trigger("patterns.lay"); }

void PatternCard::contextMenuEvent(QContextMenuEvent* event) {
  doc_.patternDesk().choose(pattern_);
  popUp(this, event->globalPos(),
        {"patterns.lay", "patterns.layoften", "patterns.show", "-", "patterns.longer", "patterns.shorter", "-",
         "patterns.vary", "patterns.shuffle", "-", "patterns.rename", "patterns.duplicate", "patterns.midi", "-",
         "patterns.remove"});
}

}  // namespace ochron

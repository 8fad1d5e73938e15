#include "loupe/bar_loupe.h"

#include <cmath>

#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/wording.h"
#include "loupe/mic_strips.h"
#include "theme/theme.h"

namespace ochron {

void BarLoupe::paint(QPainter& p, int bar) const {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto& map = doc_.song().tempo;
  const auto at = map.barStart(bar);
  const auto line = map.toFrames(at);
  const auto beat = map.toFrames(at + map.meterOfBar(bar).beatLength()) - line;
  const auto attack = doc_.tempoDesk().attackNear(line, beat / 2);
  const bool tied = doc_.tempoDesk().anchored(at);
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 22), TempoDesk::tr("Bar %1").arg(bar + 1));
  p.setFont(theme.font(12));
  p.setPen(sheet.note);
  p.drawText(QRectF(0, 10, plot_.right() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
             tied ? TempoDesk::tr("tied \u00b7 %1 BPM").arg(map.bpmAt(at), 0, 'f', 2)
                  : TempoDesk::tr("%1 BPM").arg(map.bpmAt(at), 0, 'f', 2));
  p.setFont(theme.font(12, 500));
  if (attack) {
    const double ms = msFromFrames(*attack - line, doc_.song().rate);
    p.setPen(ms > 0.05 ? sheet.late : ms < -0.05 ? sheet.early : sheet.ink);
    p.drawText(QPointF(14, 40), std::abs(ms) < 0.05 ? TempoDesk::tr("on its attack")
                                : ms > 0            ? TempoDesk::tr("the attack is %1 ms late").arg(ms, 0, 'f', 1)
                                                    : TempoDesk::tr("the attack is %1 ms early").arg(-ms, 0, 'f', 1));
  } else {
    p.setPen(sheet.note);
    p.drawText(QPointF(14, 40), TempoDesk::tr("no attack within half a beat"));
  }
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  const MicStrips strips(doc_, plot_, line, 2 * halfMs_ * doc_.song().rate / 1000 / plot_.width());
  strips.paint(p, *set, *set->clips);
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(theme.font(10.5));
  const auto mark = [&](Frames f, const QColor& colour, Qt::PenStyle style, const QString& name, bool left) {
    const double x = strips.xOf(f);
    if (x < plot_.left() || x > plot_.right()) return;
    p.setPen(QPen(colour, 1.5, style));
    p.drawLine(QPointF(x, plot_.top()), QPointF(x, plot_.bottom()));
    const QRectF box(left ? x - 90 : x + 4, plot_.bottom() + 5, 86, 14);
    p.drawText(box, Qt::AlignVCenter | (left ? Qt::AlignRight : Qt::AlignLeft), name);
  };
  const bool before = attack && *attack < line;
  if (attack && *attack != line) mark(*attack, sheet.selection, Qt::DashLine, TempoDesk::tr("attack"), before);
  mark(line, sheet.ink, Qt::SolidLine, TempoDesk::tr("bar line"), !before);
}

}  // namespace ochron

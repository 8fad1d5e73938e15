#include "steps/pitch/deviation_strip.h"

#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>

#include "canvas/view_state.h"
#include "document/document.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kMostOff = 50;  // cents: half of a semitone
constexpr double kInset = 7;     // pixels

}  // namespace

void paintDeviations(QPainter& p, const QRectF& box, Document& doc, const ViewState& view) {
  const auto& desk = doc.pitchDesk();
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const auto yOf = [&](double off) {
    const double part = std::clamp(off, -kMostOff, kMostOff) / kMostOff;
    return std::floor(box.center().y() - part * (box.height() / 2 - kInset)) + 0.5;
  };
  p.save();
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setFont(theme.font(10.5));
  struct Mark {
    double off;
    QString text;
    QColor ink;
  };
  const std::array<Mark, 3> marks{Mark{kMostOff, PitchDesk::tr("sharp 50"), sheet.late},
                                  Mark{0, PitchDesk::tr("scale"), sheet.note},
                                  Mark{-kMostOff, PitchDesk::tr("flat 50"), sheet.early}};
  for (const auto& m : marks) {
    p.setPen(m.off == 0 ? sheet.rule : sheet.hairline);
    p.drawLine(QPointF(box.left(), yOf(m.off)), QPointF(box.right(), yOf(m.off)));
    p.setPen(m.ink);
    p.drawText(QRectF(0, yOf(m.off) - 8, box.left() - 10, 16), Qt::AlignRight | Qt::AlignVCenter, m.text);
  }
  p.setClipRect(box);
  for (const auto& n : desk.notes()) {
    const double x0 = view.xOf(n.start);
    const double x1 = std::max(x0 + 2, view.xOf(n.end));
    if (x1 < box.left() || x0 > box.right()) continue;
    const double before = desk.off(n.tuned.parts.centre);
    const double after = desk.off(n.tuned.after - desk.settings().transpose);
    auto tone = before < 0 ? sheet.early : sheet.late;
    auto veil = tone;
    veil.setAlphaF(0.14F);
    p.fillRect(QRectF(QPointF(x0, yOf(before)), QPointF(x1, yOf(after))).normalized(), veil);
    tone.setAlphaF(0.8F);
    p.fillRect(QRectF(x0, yOf(before) - 0.5, x1 - x0, 1), tone);
    p.fillRect(QRectF(x0, yOf(after) - 1, x1 - x0, 2), doc.selection().isChosen(n.name) ? sheet.selection : sheet.ink);
  }
  p.restore();
}

}  // namespace ochron

#pragma once

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "theme/theme.h"

namespace ochron {

/// Room beside the waves for the mics' names.
inline double micNames() { return Theme::get().px(74); }

/// "-12 dB": the level that fills a row, when its loudest sample is `peak`.
inline QString scaleOf(float peak) {
  const int db = static_cast<int>(std::lround(20 * std::log10(std::max(1e-4F, peak))));
  return (db < 0 ? QStringLiteral("\u2212") : QString()) + QString::number(std::abs(db)) + " dB";
}

/// A mic's name beside its row, and the level that fills the row.
inline void paintMicName(QPainter& p, const QRectF& strip, const QString& name, const QString& scale) {
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  const QRectF box(strip.left() - micNames() + 12, strip.top(), micNames() - 18, strip.height());
  const bool two = strip.height() >= 26;
  p.setFont(theme.font(10.5, 500));
  p.setPen(sheet.ink);
  p.drawText(two ? box.adjusted(0, 0, 0, -box.height() / 2) : box,
             Qt::AlignLeft | (two ? Qt::AlignBottom : Qt::AlignVCenter),
             p.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(box.width())));
  if (!two) return;
  p.setFont(theme.font(9.5));
  p.setPen(sheet.note);
  p.drawText(box.adjusted(0, box.height() / 2, 0, 0), Qt::AlignLeft | Qt::AlignTop, scale);
}

}  // namespace ochron

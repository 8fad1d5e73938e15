#include "steps/kit/kit_card.h"

#include <QKeyEvent>
#include <QPainter>

#include "actions/actions.h"
#include "theme/theme.h"

namespace ochron {

KitCard::KitCard(int height, QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setProperty(kPressedByKeys, true);
  setAttribute(Qt::WA_Hover);
  fixHeight(*this, height);
  setCursor(Qt::PointingHandCursor);
}

void KitCard::paintFrame(QPainter& p, bool chosen) const {
  const auto& sheet = Theme::get().sheet();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(chosen ? sheet.selection : underMouse() ? sheet.inkSoft : sheet.rule, chosen ? 1.5 : 1));
  p.setBrush(sheet.field);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.75, 0.75, -0.75, -0.75), 5, 5);
  if (!hasFocus()) return;
  p.setPen(QPen(sheet.selection, 1.5));
  p.setBrush(Qt::NoBrush);
  p.drawRoundedRect(QRectF(rect()).adjusted(3, 3, -3, -3), 4, 4);
}

void KitCard::mousePressEvent(QMouseEvent*) {
  setFocus();
  choose();
}

void KitCard::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space)
    choose();
  else
    QWidget::keyPressEvent(event);
}

}  // namespace ochron

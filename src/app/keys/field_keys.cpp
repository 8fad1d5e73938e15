#include "keys/field_keys.h"

#include <QAbstractButton>
#include <QAbstractSlider>
#include <QApplication>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QKeyEvent>
#include <QLineEdit>
#include <QScrollBar>
#include <QTimer>
#include <QWidget>

namespace ochron {

namespace {
constexpr const char* kAsItWas = "as it was";
}

FieldKeys::FieldKeys(QWidget* window, QWidget* lanes) : QObject(window), window_(window), lanes_(lanes) {
  qApp->installEventFilter(this);
  // Qt would hand the keys of a button that is switched off on to the field after it.
  connect(qApp, &QApplication::focusChanged, this, [this](QWidget* from, QWidget* to) {
    if (to && to != lanes_ && to->window() == window_ && qobject_cast<QAbstractButton*>(from) && !from->isEnabled())
      lanes_->setFocus(Qt::OtherFocusReason);
  });
}

bool FieldKeys::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::FocusIn)
    if (auto* field = qobject_cast<QLineEdit*>(watched)) field->setProperty(kAsItWas, field->text());
  if (event->type() != QEvent::Wheel && event->type() != QEvent::KeyPress && event->type() != QEvent::ShortcutOverride)
    return false;
  auto* widget = qobject_cast<QWidget*>(watched);
  if (!widget || widget->window() != window_) return false;
  auto* box = qobject_cast<QDoubleSpinBox*>(watched);
  auto* line = qobject_cast<QLineEdit*>(watched);
  if (event->type() == QEvent::Wheel) {
    const bool value = qobject_cast<QComboBox*>(watched) || qobject_cast<QAbstractSpinBox*>(watched) ||
                       (qobject_cast<QAbstractSlider*>(watched) && !qobject_cast<QScrollBar*>(watched));
    if (value) event->ignore();
    return value;
  }
  if (!box && !line) return false;
  const int key = static_cast<QKeyEvent*>(event)->key();
  if (key != Qt::Key_Return && key != Qt::Key_Enter && key != Qt::Key_Escape) return false;
  if (event->type() == QEvent::ShortcutOverride) {  // before a command of the window takes the key
    event->accept();
    return true;
  }
  if (key == Qt::Key_Escape) {
    if (box) box->setValue(box->value());
    if (line) line->setText(line->property(kAsItWas).toString());
  }
  QTimer::singleShot(0, lanes_, [lanes = lanes_] { lanes->setFocus(Qt::OtherFocusReason); });
  return false;
}

}  // namespace ochron

#include "panel/controls.h"

#include <QCoreApplication>
#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "theme/theme.h"

namespace ochron {

QValidator::State NumberBox::validate(QString& text, int& at) const {
  text.replace(',', '.');
  return QDoubleSpinBox::validate(text, at);
}

LineSlider::LineSlider(int low, int high, int fallback, QWidget* parent)
    : QAbstractSlider(parent), fallback_(fallback) {
  setRange(low, high);
  setSingleStep(std::max(1, (high - low) / 100));
  setPageStep(std::max(1, (high - low) / 10));
  setFocusPolicy(Qt::TabFocus);
  setFixedHeight(18);
  setCursor(Qt::PointingHandCursor);
}

bool LineSlider::event(QEvent* event) {
  // While it has the focus, the arrow keys are its own.
  if (event->type() == QEvent::ShortcutOverride) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Left || key == Qt::Key_Right || key == Qt::Key_Home || key == Qt::Key_End) event->accept();
  }
  return QAbstractSlider::event(event);
}

void LineSlider::paintEvent(QPaintEvent*) {
  const auto& sheet = Theme::get().sheet();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const double y = height() / 2.0;
  const double x =
      7 + (width() - 14) * (sliderPosition() - minimum()) / static_cast<double>(std::max(1, maximum() - minimum()));
  p.setPen(Qt::NoPen);
  p.setBrush(sheet.hairline);
  p.drawRoundedRect(QRectF(3, y - 2, width() - 6, 4), 2, 2);
  p.setBrush(isEnabled() ? sheet.selection : sheet.rule);
  p.drawRoundedRect(QRectF(3, y - 2, x - 3, 4), 2, 2);
  p.setPen(QPen(isEnabled() ? sheet.selection : sheet.rule, hasFocus() || underMouse() ? 2.4 : 1.8));
  p.setBrush(sheet.field);
  p.drawEllipse(QPointF(x, y), 5.5, 5.5);
}

void LineSlider::follow(double x) {
  setSliderPosition(static_cast<int>(
      std::lround(minimum() + (maximum() - minimum()) * std::clamp((x - 7) / (width() - 14), 0.0, 1.0))));
}

void LineSlider::mousePressEvent(QMouseEvent* event) {
  setSliderDown(true);
  follow(event->position().x());
}
void LineSlider::mouseMoveEvent(QMouseEvent* event) {
  if (isSliderDown()) follow(event->position().x());
}

QString titleOf(const SettingRange& range) {
  auto title = QCoreApplication::translate("Setting", std::string(range.name).c_str());
  if (!title.isEmpty()) title[0] = title[0].toUpper();
  return title;
}

QLabel* noteLabel(const QString& text, QWidget* parent) {
  auto* l = new QLabel(text, parent);
  l->setProperty("note", true);
  l->setWordWrap(true);
  return l;
}

void addLabelled(QGridLayout& grid, QWidget* field, int width, QWidget* parent) {
  fixWidth(*field, width);
  const int row = grid.rowCount();
  auto* label = new QLabel(field->accessibleName(), parent);
  label->setBuddy(field);
  label->setWordWrap(true);  // rather than pushing fields out of the panel
  grid.addWidget(label, row, 0);
  grid.addWidget(field, row, 1);
}

QComboBox* choiceBox(const QString& label, const QString& name, QWidget* parent) {
  auto* box = new QComboBox(parent);
  box->setObjectName(name);
  box->setAccessibleName(label);
  box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  box->setMinimumContentsLength(8);
  return box;
}

QDoubleSpinBox* numberField(const SettingRange& range, const QString& name, QWidget* parent) {
  auto* box = new NumberBox(parent);
  box->setRange(range.low, range.high);
  box->setSingleStep(range.step);
  box->setDecimals(range.step < 0.1 ? 2 : range.step < 1 ? 1 : 0);
  box->setSuffix(" " + QString::fromUtf8(range.unit.data()));
  box->setValue(range.fallback);
  box->setAccessibleName(name);
  box->setObjectName(name);
  box->setKeyboardTracking(false);
  box->setAlignment(Qt::AlignRight);
  box->setMinimumWidth(56);
  return box;
}

SettingControl::SettingControl(const QString& title, const SettingRange& range, const QString& prefix, QWidget* parent)
    : QWidget(parent), step_(range.step) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* line = new QHBoxLayout;
  line->setSpacing(4);
  auto* label = new QLabel(title, this);
  label->setFont(Theme::get().font(12, 500));
  box_ = numberField(range, title, this);
  box_->setPrefix(prefix);
  box_->setFrame(false);
  box_->setStyleSheet(
      "QDoubleSpinBox { border: 1px solid transparent; background: transparent; padding: 0 2px; min-height: 15px; }");
  fixWidth(*box_, 92);
  line->addWidget(label, 1);
  line->addWidget(box_);
  column->addLayout(line);
  slider_ = new LineSlider(static_cast<int>(std::lround(range.low / step_)),
                           static_cast<int>(std::lround(range.high / step_)),
                           static_cast<int>(std::lround(range.fallback / step_)), this);
  slider_->setAccessibleName(title);
  slider_->setObjectName(title + " slider");
  column->addWidget(slider_);
  hint_ = noteLabel({}, this);
  hint_->hide();
  column->addWidget(hint_);
  connect(slider_, &QAbstractSlider::valueChanged, this, [this](int v) {
    const QSignalBlocker quiet(box_);
    box_->setValue(v * step_);
    emit changed(v * step_);
  });
  connect(slider_, &QAbstractSlider::sliderPressed, this, [this] { emit held(true); });
  connect(slider_, &QAbstractSlider::sliderReleased, this, [this] { emit held(false); });
  connect(box_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
    const QSignalBlocker quiet(slider_);
    slider_->setValue(static_cast<int>(std::lround(v / step_)));
    slider_->update();
    emit changed(v);
  });
  show(range.fallback);
}

void SettingControl::show(double value) {
  const QSignalBlocker a(box_);
  const QSignalBlocker b(slider_);
  if (!box_->hasFocus()) box_->setValue(value);
  if (!slider_->isSliderDown()) slider_->setValue(static_cast<int>(std::lround(value / step_)));
  slider_->update();
}

void SettingControl::setHint(const QString& hint) {
  hint_->setText(hint);
  hint_->setVisible(!hint.isEmpty());
}

}  // namespace ochron

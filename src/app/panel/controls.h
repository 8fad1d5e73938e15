#pragma once

#include <QAbstractSlider>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLabel>

#include "base/setting.h"
#include "document/document.h"

namespace ochron {

/// A field for a number. A comma is a decimal mark, as a full stop is; nothing that is typed is dropped.
class NumberBox : public QDoubleSpinBox {
  Q_OBJECT
 public:
  using QDoubleSpinBox::QDoubleSpinBox;
  QValidator::State validate(QString& text, int& at) const override;
};

/// A thin line with a round handle; double-click goes back to the default.
class LineSlider : public QAbstractSlider {
  Q_OBJECT
 public:
  LineSlider(int low, int high, int fallback, QWidget* parent);
  QSize sizeHint() const override { return {150, 18}; }

 protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override { setSliderDown(false); }
  void mouseDoubleClickEvent(QMouseEvent*) override { setValue(fallback_); }
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }
  void hideEvent(QHideEvent*) override { setSliderDown(false); }
  void sliderChange(SliderChange) override { update(); }

 private:
  void follow(double x);
  int fallback_;
};

/// A title, a value that can be typed, a slider and a line of explanation, for one number of a settings struct.
class SettingControl : public QWidget {
  Q_OBJECT
 public:
  SettingControl(const QString& title, const SettingRange& range, const QString& prefix, QWidget* parent);
  void show(double value);
  void setHint(const QString& hint);
  double value() const { return box_->value(); }

 signals:
  /// By the user.
  void changed(double value);
  /// The slider is taken hold of (true) or let go.
  void held(bool down);

 private:
  QDoubleSpinBox* box_;
  LineSlider* slider_;
  QLabel* hint_;
  double step_;
};

/// Holds the song as long as a control is held: for SettingControl::held.
inline auto holdingWhile(Document& document) {
  return [&document, grip = std::make_shared<Grip>()](bool down) { *grip = down ? document.takeHold() : Grip(); };
}

/// A box to choose from that is as wide as it is told, not as its words are.
QComboBox* choiceBox(const QString& label, const QString& name, QWidget* parent);

/// A line of explanation, as wide as there is room.
QLabel* noteLabel(const QString& text, QWidget* parent);
/// A field with its name before it, as the next row of a grid.
void addLabelled(QGridLayout& grid, QWidget* field, int width, QWidget* parent);
/// A setting's name as a title: with a capital.
QString titleOf(const SettingRange& range);
/// A number field for a setting, without a slider.
QDoubleSpinBox* numberField(const SettingRange& range, const QString& name, QWidget* parent);

}  // namespace ochron

#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>
#include <QToolButton>
#include <QWidget>
#include <functional>

#include "document/document.h"
#include "panel/controls.h"
#include "panel/step_page.h"

namespace ochron {

/// The timing plan's controls. Every change is carried out at once.
class TimingStep : public StepPage {
  Q_OBJECT
 public:
  TimingStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void refresh();
  QToolButton* buildClasses();
  void setMethod(int item);
  void showMethod();
  void showRound();
  void showClasses(const std::vector<DrumClass>& meant);
  void change(const QString& name, const std::function<void(TimingSettings&)>& edit, const QString& gesture = {});
  SettingControl* control(double TimingSettings::*value, const QString& prefix = {});
  QDoubleSpinBox* field(double TimingSettings::*value);

  QCheckBox* on_;
  QComboBox* start_;
  QComboBox* grid_;
  QDoubleSpinBox* swing_;
  SettingControl* strength_;
  SettingControl* drift_;
  SettingControl* pocket_;
  SettingControl* scatter_;
  QComboBox* method_;
  QPushButton* round_;
  QPushButton* keepRound_;
  QToolButton* classes_;
  QDoubleSpinBox* tolerance_;
  QDoubleSpinBox* most_;
  QDoubleSpinBox* gesture_;
};

}  // namespace ochron

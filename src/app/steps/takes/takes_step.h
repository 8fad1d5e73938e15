#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QWidget>
#include <functional>

#include "document/document.h"
#include "panel/step_page.h"

namespace ochron {

/// Import, tempo, mic sets, and the selected track's values.
class TakesStep : public StepPage {
  Q_OBJECT
 public:
  TakesStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void refresh();
  void changeTrack(const QString& name, const std::function<void(Track&)>& change);
  void setTempo(double bpm);
  void setMeter(const QString& text);

  QDoubleSpinBox* tempo_;
  QLineEdit* meter_;
  QDoubleSpinBox* start_;
  QWidget* trackBox_;
  QLineEdit* name_;
  QComboBox* role_;
  QComboBox* rate_;
  QDoubleSpinBox* gain_;
  QDoubleSpinBox* pan_;
  QPushButton* relink_;
  QPushButton* group_;
};

}  // namespace ochron

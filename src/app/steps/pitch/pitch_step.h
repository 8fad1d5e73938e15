#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>

#include "panel/controls.h"
#include "panel/step_page.h"

namespace ochron {

class PitchDesk;

/// How the active set's line is tuned: to which scale, and how much of the singer stays.
class PitchStep : public StepPage {
  Q_OBJECT
 public:
  PitchStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void refresh();
  void change(const QString& name, const std::function<void(TuneSettings&)>& edit, const QString& gesture = {});
  void chooseScale();
  void readScale();
  SettingControl* control(double TuneSettings::*field, const QString& prefix);
  QDoubleSpinBox* field(double TuneSettings::*field);
  /// The controls show and change the chosen notes' own values.
  bool forChosen() const;
  void typePitch();
  void fillLines();

  PitchDesk& desk_;
  QComboBox* line_;
  QPushButton* listen_;
  QCheckBox* on_;
  QComboBox* tonic_;
  QComboBox* kind_;
  QDoubleSpinBox* reference_;
  QPushButton* measured_;
  QCheckBox* own_;
  QComboBox* start_;
  SettingControl* centre_;
  SettingControl* wander_;
  SettingControl* vibrato_;
  SettingControl* glide_;
  SettingControl* formants_;
  QDoubleSpinBox* tolerance_;
  QDoubleSpinBox* most_;
  QDoubleSpinBox* transpose_;
  QLabel* chosen_;
  QLineEdit* target_;
  QPushButton* asSung_;
  QPushButton* giveBack_;
  QPushButton* toHits_;
};

}  // namespace ochron

#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <optional>
#include <vector>

#include "document/document.h"
#include "panel/controls.h"
#include "panel/step_page.h"
#include "steps/kit/kit_card.h"

namespace ochron {

class LayerCard;

/// Sounds on the strokes of a drum: the layers, and the settings of the one that is worked on.
class KitStep : public StepPage {
  Q_OBJECT
 public:
  KitStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  void refresh();
  void refreshCards();
  SettingControl* control(QVBoxLayout& to, double LayerSettings::*field);

  QComboBox* drum_;
  std::optional<CardColumn<LayerCard, Layer>> cards_;
  QLabel* empty_;
  QWidget* settings_;
  QLabel* title_;
  std::vector<std::pair<double LayerSettings::*, SettingControl*>> controls_;
  QComboBox* lineUp_;
  QComboBox* polarity_;
  QCheckBox* sent_;
  QLabel* polarityNote_;
};

}  // namespace ochron

#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>
#include <array>
#include <optional>

#include "document/document.h"
#include "panel/controls.h"
#include "panel/step_page.h"

namespace ochron {

/// Guides, what counts as a hit, and the current hit.
class HitsStep : public StepPage {
  Q_OBJECT
 public:
  HitsStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  struct GuideRow {
    TrackId track;
    QCheckBox* on = nullptr;
    QDoubleSpinBox* weight = nullptr;
    QDoubleSpinBox* sensitivity = nullptr;
  };
  static QDoubleSpinBox* guideField(double GuideSettings::*value, const QString& name, QWidget* parent);
  void flashThreshold();
  void refresh();
  void rebuildGuides();
  using Counts = std::array<int, kDrumClassNames.size()>;
  /// Strokes that count, by drum.
  Counts strokes() const;

  QVBoxLayout* guides_;
  SetId shownSet_;
  QPushButton* find_;
  SettingControl* sensitivity_;
  QDoubleSpinBox* spacing_;
  QLabel* count_;
  std::optional<Counts> heldFrom_;  ///< the strokes when the sensitivity was taken hold of
  QPushButton* remove_;
  std::vector<GuideRow> rows_;
  QCheckBox* hear_;
  QCheckBox* click_;
};

}  // namespace ochron

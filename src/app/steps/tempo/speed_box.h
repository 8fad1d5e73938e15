#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// How fast the song runs, or its chosen range: typed in any unit, with pitch or without, heard only or exported too.
class SpeedBox : public QWidget {
  Q_OBJECT
 public:
  SpeedBox(Document& document, QWidget* parent);

 private:
  void refresh();
  /// Percent where it is typed for.
  double percentHere() const;
  double bpmHere() const;
  void typed(double value);

  Document& doc_;
  QLabel* for_;
  QDoubleSpinBox* value_;
  QComboBox* unit_;
  QComboBox* pitch_;
  QCheckBox* exported_;
};

}  // namespace ochron

#pragma once

#include <QLabel>
#include <QStackedWidget>
#include <QWidget>
#include <vector>

#include "panel/step_page.h"

namespace ochron {

/// The open step's name, what there is to say of it, and its controls, with the whole height for them.
class StepPanel : public QWidget {
  Q_OBJECT
 public:
  /// Takes the pages over.
  StepPanel(Document& document, const std::vector<StepEntry>& steps, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void refresh();

  Document& doc_;
  std::vector<StepEntry> steps_;
  QLabel* name_;
  QLabel* summary_;
  QStackedWidget* pages_;
};

}  // namespace ochron

#pragma once

#include <QWidget>
#include <vector>

#include "panel/step_page.h"

namespace ochron {

/// All steps, always in sight: number, name, state in two words, and a red figure where something needs a look. They
/// may be visited in any order.
class Rail : public QWidget {
  Q_OBJECT
 public:
  Rail(Document& document, const std::vector<StepEntry>& steps, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  class Stop;
  void refresh();

  Document& doc_;
  std::vector<StepEntry> steps_;
  std::vector<Stop*> stops_;
};

}  // namespace ochron

#pragma once

#include <QVBoxLayout>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// Exceptions to the grid: other grids for a drum, for a stretch of the song, or both.
class GridRulesBox : public QWidget {
  Q_OBJECT
 public:
  GridRulesBox(Document& document, QWidget* parent);

 private:
  void refresh();
  void add();
  Document& doc_;
  QVBoxLayout* rows_;
  std::vector<GridRule> shown_;
};

}  // namespace ochron

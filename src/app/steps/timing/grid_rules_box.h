#pragma once

#include <QVBoxLayout>
#include <QWidget>
#include <array>

#include "document/document.h"

namespace ochron {

/// The grids that are offered, as parseGrid() reads them.
inline constexpr std::array kGridTexts{"1/1",  "1/2",   "1/4",   "1/4t", "1/8",   "1/8t", "1/8d",
                                       "1/16", "1/16t", "1/16d", "1/32", "1/32t", "1/64"};

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

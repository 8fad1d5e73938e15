#pragma once

#include <QToolButton>
#include <QWidget>

#include "document/document.h"

namespace ochron {

class ViewState;
class StrengthGraph;
class CellGrid;
class PatternGrid;

/// The kit's working surface: how loud the layer answers strokes of every strength, and beside it the slices of the set
/// under the fingers, or the chosen pattern to draw on.
class KitBench : public QWidget {
  Q_OBJECT
 public:
  KitBench(Document& document, ViewState& view, QWidget* parent);
  /// The pattern in the place of the cells.
  bool showsPattern() const { return showsPattern_; }
  void showPattern(bool on);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();
  void placeButtons();

  Document& doc_;
  StrengthGraph* graph_;
  CellGrid* cells_;
  PatternGrid* pattern_;
  QToolButton* cellsTab_;
  QToolButton* patternTab_;
  QToolButton* before_;
  QToolButton* next_;
  QToolButton* record_;
  QToolButton* grid_;
  QToolButton* count_;
  QToolButton* split_;
  bool showsPattern_ = false;
  int buttonsFrom_ = 0;  ///< where the head's buttons begin, pixels
};

}  // namespace ochron

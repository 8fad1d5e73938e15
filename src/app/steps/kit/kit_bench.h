#pragma once

#include <QToolButton>
#include <QWidget>

#include "document/document.h"

namespace ochron {

class ViewState;
class StrengthGraph;
class CellGrid;

/// The kit's working surface: how loud the layer answers strokes of every strength, and the slices of the set under
/// the fingers.
class KitBench : public QWidget {
  Q_OBJECT
 public:
  KitBench(Document& document, ViewState& view, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();

  Document& doc_;
  StrengthGraph* graph_;
  CellGrid* cells_;
  QToolButton* before_;
  QToolButton* next_;
  QToolButton* record_;
  QToolButton* grid_;
  QToolButton* split_;
};

}  // namespace ochron

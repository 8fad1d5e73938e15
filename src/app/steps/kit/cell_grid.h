#pragma once

#include <QTimer>
#include <QWidget>

#include "canvas/read_items.h"
#include "document/document.h"

namespace ochron {

/// Sixteen slices of the active set as cells: pressed, they sound; by the keys shown on them while the grid has the
/// focus. What is seen on a cell is the clip's own: muted, reversed, higher, softer.
class CellGrid : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  CellGrid(Document& document, QWidget* parent);
  /// The cell at a place; -1: none.
  int cellAt(QPointF at) const;
  QRectF boxOf(int cell) const;

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent*) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dragMoveEvent(QDragMoveEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

 private:
  void paintCell(QPainter& p, int cell, const Clip& clip);
  static int cellOf(int key);
  /// Of a sound of its own; empty: it plays what was recorded.
  QString soundName(const Clip& clip) const;

  Document& doc_;
  int hovered_ = -1;
  int lit_ = -1;
  QTimer glow_;
};

}  // namespace ochron

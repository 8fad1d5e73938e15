#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "canvas/read_items.h"
#include "document/document.h"
#include "song/pattern.h"

namespace ochron {

/// The chosen pattern to draw on: a row for each slice, a column for each line of the plan's grid. A click strikes a
/// slice there or takes the stroke away; a stroke is dragged louder and softer. Strokes off their lines are drawn where
/// they lie. By keys: arrows, Return, plus and minus.
class PatternGrid : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  PatternGrid(Document& document, QWidget* parent);

  std::vector<ReadItem> readItems() const override;
  /// Where a slice of slices() may be struck.
  QRectF boxOf(int row, int column) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

 private:
  /// What is shown, read anew when the song or what is chosen changes.
  struct Model {
    std::vector<Clip> rows;
    std::vector<QString> names;
    std::vector<Ticks> columns;
    std::vector<std::pair<int, int>> places;  ///< of each stroke: its row and its column
  };
  struct Spot {
    int row = 0;
    int column = 0;
    bool operator==(const Spot&) const = default;
  };
  void read();
  QString nameOf(const Clip& clip) const;
  QRectF plot() const;
  double xOf(Ticks at) const;
  Ticks reach() const;
  std::optional<Spot> spotAt(QPointF at) const;
  std::optional<std::size_t> strokeAt(Spot spot) const;
  QString wordsFor(Spot spot) const;
  void turn(Spot spot) const;
  void louder(Spot spot, double db) const;
  void paintLines(QPainter& p) const;
  void paintStrokes(QPainter& p) const;

  Document& doc_;
  Model model_;
  Spot cursor_;
  std::optional<Spot> hovered_;
  std::optional<std::size_t> held_;  ///< a stroke
  QPointF pressed_;
  double gainBefore_ = 0;
  bool dragged_ = false;
  Grip grip_;
};

}  // namespace ochron

#pragma once

#include <QWidget>
#include <optional>

#include "canvas/read_items.h"
#include "document/document.h"
#include "song/layer.h"

namespace ochron {

/// A layer's strokes by strength, the curve of how loud it answers them, and the threshold under which it does not.
/// Points of the curve are added by a double click, dragged, and taken away by dragging them out or with Delete.
class StrengthGraph : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  StrengthGraph(Document& document, QWidget* parent);

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

 private:
  static QString emptyText();
  enum class Held { nothing, point, threshold };
  QRectF plot() const;
  double xOf(double strength) const;
  double yOf(double db) const;
  double strengthAt(double x) const;
  double dbAt(double y) const;
  double pointDbAt(double y) const;
  std::vector<CurvePoint> points() const;
  std::optional<std::size_t> pointAt(QPointF at) const;
  void put(std::vector<CurvePoint> points, const QString& name, const QString& gesture);

  Document& doc_;
  Held held_ = Held::nothing;
  std::optional<std::size_t> point_;  ///< held or chosen
  Grip grip_;
};

}  // namespace ochron

#pragma once

#include <QWidget>
#include <optional>

#include "canvas/read_items.h"
#include "document/document.h"
#include "feel/plan_timing.h"

namespace ochron {

/// The surroundings of the current hit in every mic of its set, one under the other, with grid line, onset and seam.
/// The onset can be dragged to the sample.
class LoupeView : public QWidget, public ReadItems {
  Q_OBJECT
 public:
  LoupeView(Document& document, QWidget* parent);

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

 private:
  QRectF plot() const;
  double framesPerPixel() const;
  /// Song time at the middle of the plot.
  Frames middle() const;
  double xOf(Frames song) const;
  bool showsOriginal() const;
  /// The seam that is shown instead of a hit; none outside the Seams step.
  bool showsStroke() const;
  const Clip* seam() const;
  void paintMics(QPainter& p);
  void paintMarks(QPainter& p, const PlannedHit& hit);

  Document& doc_;
  double halfMs_ = 40;
  double seamHalfMs_ = 12;
  bool dragging_ = false;
  std::optional<Frames> held_;  // the middle stays while the onset is dragged
  double grip_ = 0;
  Grip hold_;
};

}  // namespace ochron

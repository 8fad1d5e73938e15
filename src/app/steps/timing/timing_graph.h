#pragma once

#include "canvas/row.h"
#include "document/selection.h"

namespace ochron {

/// Each hit's deviation from its grid place in ms, before (ring) and after (dot), along the lanes' time axis; the drift
/// curve, the tolerance band, and a histogram of both; or the pocket over one bar. A hit dragged up or down gets its
/// target that far off its line.
class TimingGraph : public Row {
  Q_OBJECT
 public:
  TimingGraph(Document& document, ViewState& view, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  bool dragging() const override { return dragging_; }
  void dragEnded() override;

 private:
  double reachMs() const;
  QRectF plot() const;
  double yOf(double ms) const;
  void paintHistogram(QPainter& p);
  void paintHits(QPainter& p);
  void paintPocket(QPainter& p);
  QRectF pocketToggle() const;
  const PlannedHit* hitAt(QPointF point) const;

  bool pocket_ = false;  // one bar's pocket is shown instead of the song
  std::optional<HitRef> grabbed_;
  Ticks line_;
  QPointF pressed_;
  bool dragging_ = false;
  double heldReach_ = 0;  // the scale stays while something is dragged
};

}  // namespace ochron

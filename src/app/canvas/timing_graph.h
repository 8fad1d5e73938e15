#pragma once

#include "canvas/row.h"

namespace ochron {

/// Each hit's deviation from its grid place in ms, before (ring) and after (dot), along the lanes' time axis; the drift
/// curve, the tolerance band, and a histogram of both.
class TimingGraph : public Row {
  Q_OBJECT
 public:
  TimingGraph(Document& document, ViewState& view, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;

 private:
  double reachMs() const;
  QRectF plot() const;
  double yOf(double ms) const;
  void paintHistogram(QPainter& p);
  void paintHits(QPainter& p);
};

}  // namespace ochron

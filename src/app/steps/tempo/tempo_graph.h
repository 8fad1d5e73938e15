#pragma once

#include "canvas/read_items.h"
#include "canvas/row.h"

namespace ochron {

/// The tempo bar by bar as it was heard, the map over it and its trend, on the lanes' time axis.
class TempoGraph : public Row, public ReadItems {
  Q_OBJECT
 public:
  TempoGraph(Document& document, ViewState& view, QWidget* parent);

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;

 private:
  /// A stretch of one tempo as it was played: song time and BPM of quarter notes.
  struct Played {
    FrameRange range;
    double bpm = 0;
  };
  std::vector<Played> played() const;
  QRectF plot() const;
  void paintScale(QPainter& p, const QRectF& box, double low, double high) const;
  void paintMap(QPainter& p, const QRectF& box, double low, double high) const;
};

}  // namespace ochron

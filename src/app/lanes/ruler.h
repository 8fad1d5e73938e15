#pragma once

#include "canvas/read_items.h"
#include "canvas/row.h"

namespace ochron {

/// Bars and beats, with the song's markers and sections under them. Click: put the play line; drag: choose a range.
class Ruler : public Row, public ReadItems {
  Q_OBJECT
 public:
  Ruler(Document& document, ViewState& view, QWidget* parent);

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;

 private:
  enum class MarkPart { whole, end };
  struct MarkSpot {
    MarkerId marker;
    MarkPart part = MarkPart::whole;
  };
  std::optional<MarkSpot> markAt(QPointF point) const;
  void paintMarks(QPainter& p) const;
  void fit();
  Frames anchor_;
};

}  // namespace ochron

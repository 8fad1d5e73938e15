#pragma once

#include <QWidget>

#include "canvas/view_state.h"
#include "document/document.h"

namespace ochron {

/// A row of the canvas: shows the document along the shared time axis, with a moving play line.
class Row : public QWidget {
  Q_OBJECT
 public:
  Row(Document& document, ViewState& view, QWidget* parent);
  /// Moves the play line; repaints only where it was and is.
  void showPlayLine(Frames at);

 protected:
  void wheelEvent(QWheelEvent* event) override;
  /// Bars and beats (and grid lines when `grid`) as rules between y0 and y1.
  void paintRules(QPainter& painter, double y0, double y1, bool grid) const;
  void paintPlayLine(QPainter& painter, double y0, double y1) const;
  Frames playLine() const { return playLine_; }

  Document& doc_;
  ViewState& view_;

 private:
  Frames playLine_;
};

}  // namespace ochron

#pragma once

#include <QWidget>
#include <memory>

#include "canvas/gesture.h"
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

 signals:
  /// While something is dragged: what, from where to where; empty when it is over.
  void gestureTold(const QString& sentence);

 protected:
  /// Where the play line stands in this row.
  virtual double playX(Frames at) const { return view_.xOf(at); }
  void wheelEvent(QWheelEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override { drop(); }
  /// While something is dragged, Escape takes it back; else it is the window's.
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  virtual bool dragging() const { return gesture_ != nullptr; }
  /// The drag is over: dropped, or taken back.
  virtual void dragEnded() { gesture_.reset(); }
  /// Whose turn comes first while something is dragged (PreviewTurns).
  virtual bool leads() const { return false; }
  void drop();
  /// The paper, the gutter at its left, and in it what the row is called.
  void paintEmptyRow(QPainter& painter, const QString& name = {}) const;
  /// Bars and beats (and grid lines when `grid`) as rules between y0 and y1.
  void paintRules(QPainter& painter, double y0, double y1, bool grid) const;
  void paintPlayLine(QPainter& painter, double y0, double y1) const;
  Frames playLine() const { return playLine_; }

  Document& doc_;
  ViewState& view_;
  std::unique_ptr<Gesture> gesture_;

 private:
  Frames playLine_;
  Grip hold_;
};

}  // namespace ochron

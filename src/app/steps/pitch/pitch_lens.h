#pragma once

#include "canvas/read_items.h"
#include "canvas/row.h"
#include "document/pitch_desk.h"

namespace ochron {

/// The active set's line against a ruler of notes, on the lanes' time axis: what was sung as a thin trace, each note a
/// plain step at its centre, tinted by how far it lies off the scale. Notes are chosen and dragged here.
class PitchLens : public Row, public ReadItems {
  Q_OBJECT
 public:
  PitchLens(Document& document, ViewState& view, QWidget* parent);
  /// Where a pitch stands, in this widget's pixels; cents above 1 Hz.
  double yOf(double cents) const;

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void dragEnded() override;

 private:
  QString emptyText() const;
  QRectF plot() const;
  QRectF strip() const;
  int stripHeight() const;
  void fitRange();
  double centsAt(double y) const;
  const PitchDesk::Note* noteAt(QPointF point) const;
  NotePart partAt(const PitchDesk::Note& note, QPointF point) const;
  void paintHead(QPainter& p) const;
  QString transposed() const;
  void paintPitches(QPainter& p) const;
  void paintWave(QPainter& p) const;
  void paintChosen(QPainter& p) const;
  void paintTrace(QPainter& p) const;
  void paintNotes(QPainter& p) const;

  PitchDesk& desk_;
  double low_ = 0;  // cents above 1 Hz at the plot's foot and top
  double high_ = 1200;
  bool byHand_ = false;  // the range was scrolled: it is left as it is
  std::optional<QPointF> bandFrom_;
  QPointF bandTo_;
};

}  // namespace ochron

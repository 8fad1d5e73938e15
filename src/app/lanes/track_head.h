#pragma once

#include <QLabel>
#include <QToolButton>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// Name, guide badge, mute, solo and level of one track, at the left of its lane.
class TrackHead : public QWidget {
  Q_OBJECT
 public:
  TrackHead(Document& document, TrackId track, QWidget* parent);
  void refresh();
  /// Peak since the last call, linear; falls slowly on the screen.
  void showLevel(float peak);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void paintLock(QPainter& p) const;
  Document& doc_;
  TrackId track_;
  QToolButton* mute_;
  QToolButton* solo_;
  double level_ = 0;
};

}  // namespace ochron

#pragma once

#include <map>
#include <memory>
#include <utility>

#include "canvas/gesture.h"
#include "canvas/hit_overlay.h"
#include "canvas/row.h"
#include "canvas/seam_overlay.h"
#include "canvas/wave.h"

namespace ochron {

class TrackHead;

/// All tracks' sound along the song, with clips, seams, hits and the grid. What a drag does depends on the open step.
class LanesView : public Row {
  Q_OBJECT
 public:
  LanesView(Document& document, ViewState& view, QWidget* parent);

  /// The lane's box, in this widget's pixels.
  QRectF laneBox(int index) const;
  TrackHead* head(TrackId track) const {
    const auto found = heads_.find(track);
    return found == heads_.end() ? nullptr : found->second;
  }
  /// Top and bottom of a set's lanes.
  std::pair<double, double> setBounds(const MicSet& set) const;
  /// Index of a track's lane, or of the lane at a height; -1 when there is none.
  int laneOf(TrackId track) const;
  int laneAt(double y) const;

 signals:
  /// While something is dragged: what, from where to where.
  void gestureTold(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void leaveEvent(QEvent*) override;

 private:
  void arrangeHeads();
  void paintLane(QPainter& p, int index, const Track& track, const ClipList& clips, const QRect& dirty);
  void paintClipWave(WaveCanvas& canvas, const Track& track, const Clip& clip, const QRectF& lane, double x0,
                     double x1);
  void paintEmpty(QPainter& p);
  void hover(QPointF point);

  std::map<TrackId, TrackHead*> heads_;
  HitOverlay hits_{doc_, view_, *this};
  SeamOverlay seams_{doc_, view_, *this};
  std::unique_ptr<Gesture> gesture_;
};

}  // namespace ochron

#pragma once

#include <map>
#include <optional>

#include "canvas/row.h"
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
  /// The hit whose mark is nearest to a point, within a few pixels.
  std::optional<HitRef> hitAt(QPointF point) const;

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
  enum class Drag { none, range, target };
  void arrangeHeads();
  void paintLane(QPainter& p, int index, const Track& track, const ClipList& clips, const QRect& dirty);
  void paintClipWave(WaveCanvas& canvas, const Track& track, const Clip& clip, const QRectF& lane, double x0,
                     double x1);
  void paintHits(QPainter& p);
  void paintEmpty(QPainter& p);
  int trackIndexAt(double y) const;
  std::optional<Frames> snapped(Frames at) const;

  std::map<TrackId, TrackHead*> heads_;
  Drag drag_ = Drag::none;
  Frames anchor_;
  std::optional<HitRef> grabbed_;
  std::optional<HitRef> hovered_;
};

}  // namespace ochron

#pragma once

#include <map>
#include <memory>
#include <utility>

#include "canvas/lane_cache.h"
#include "canvas/lane_layout.h"
#include "canvas/overlay.h"
#include "canvas/row.h"

namespace ochron {

class TrackHead;

/// All tracks' sound along the song, with clips, seams, hits and the grid. What a drag does depends on the open step.
class LanesView : public Row {
  Q_OBJECT
 public:
  LanesView(Document& document, ViewState& view, QWidget* parent);

  const LaneLayout& layout() const { return lanes_; }
  Document& document() const { return doc_; }
  double xOf(Frames at) const { return view_.xOf(at); }
  TrackHead* head(TrackId track) const {
    const auto found = heads_.find(track);
    return found == heads_.end() ? nullptr : found->second;
  }
  /// The pointer's place on the lanes, when it is over one: for edits at the pointer.
  std::optional<std::pair<Frames, SetId>> pointed() const;

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  bool leads() const override { return true; }
  void dragEnded() override;
  void leaveEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void arrangeHeads();
  void fitLanes();
  void paintEmpty(QPainter& p);
  void paintMissing(QPainter& p, const Track& track, const ClipList& clips, const QRectF& box) const;
  void paintRange(QPainter& p) const;
  void paintTracks(QPainter& p, const QRect& dirty);
  void hover(std::optional<QPointF> point);
  /// The first overlay that has something at a place; null when none has.
  Overlay* reached(QPointF point) const;

  LaneLayout lanes_{doc_, view_, *this};
  std::map<TrackId, TrackHead*> heads_;
  std::vector<std::unique_ptr<Overlay>> overlays_;  ///< in the order in which the pointer reaches them
  LaneCache pictures_{doc_, view_};
  QPointF pressedAt_;
  Overlay* held_ = nullptr;  ///< what was pressed lies on it
  bool dragged_ = false;
};

}  // namespace ochron

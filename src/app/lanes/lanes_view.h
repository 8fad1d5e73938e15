#pragma once

#include <map>
#include <memory>
#include <utility>

#include "canvas/gesture.h"
#include "canvas/lane_cache.h"
#include "canvas/lane_layout.h"
#include "canvas/row.h"
#include "steps/clips/clip_overlay.h"
#include "steps/clips/envelope_overlay.h"
#include "steps/hits/hit_overlay.h"
#include "steps/kit/kit_overlay.h"
#include "steps/seams/seam_overlay.h"
#include "steps/tempo/tempo_overlay.h"
#include "steps/timing/pin_overlay.h"

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
  void dragEnded() override;
  void leaveEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void arrangeHeads();
  void fitLanes();
  void paintEmpty(QPainter& p);
  void paintMissing(QPainter& p, const Track& track, const ClipList& clips, const QRectF& box) const;
  void paintRange(QPainter& p) const;
  void hover(QPointF point);
  bool pressClip(QMouseEvent* event);
  std::optional<TempoOverlay::FitSpot> fitSpot(QPointF point) const;
  std::unique_ptr<Gesture> grabStroke(QPointF at, HitRef hit, const std::function<void(const QString&)>& tell);

  LaneLayout lanes_{doc_, view_, *this};
  std::map<TrackId, TrackHead*> heads_;
  HitOverlay hits_{doc_, view_, lanes_};
  SeamOverlay seams_{doc_, view_, lanes_};
  ClipOverlay clips_{doc_, view_, lanes_};
  EnvelopeOverlay envelopes_{doc_, view_, lanes_};
  TempoOverlay tempo_{doc_, view_};
  KitOverlay kit_{doc_, view_, lanes_};
  PinOverlay pins_{doc_, view_, lanes_, hits_};
  LaneCache pictures_{doc_, view_};
  QPointF pressedAt_;
  std::optional<ClipOverlay::Spot> pressed_;
  bool dragged_ = false;
};

}  // namespace ochron

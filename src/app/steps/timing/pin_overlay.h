#pragma once

#include <QPainter>
#include <functional>
#include <memory>
#include <optional>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"
#include "document/pin_desk.h"
#include "document/selection.h"

namespace ochron {

class HitOverlay;
class LaneLayout;

/// Where sound is stretched: how fast it runs as a curve on the lane, slower above and faster below its middle, and on
/// the curve its pins to take hold of.
class PinOverlay {
 public:
  PinOverlay(Document& document, ViewState& view, const LaneLayout& lanes, const HitOverlay& hits)
      : doc_(document), view_(view), lanes_(lanes), hits_(hits) {}

  using Place = PinRef;
  void paint(QPainter& p) const;
  std::optional<Place> at(QPointF point) const;
  /// Chooses the pin that is pressed, or adds it to those that are chosen (Ctrl), and begins its drag.
  std::unique_ptr<Gesture> press(QPointF point, const Place& place, Qt::KeyboardModifiers modifiers,
                                 std::function<void(const QString&)> tell) const;
  /// Dragging a place that is pinned from then on. Shift: free of the grid; Alt: what follows comes along; Ctrl: both
  /// sides give way.
  std::unique_ptr<Gesture> drag(QPointF point, const Place& place, std::function<void(const QString&)> tell) const;
  bool hover(std::optional<Place> place);
  QString tipFor(const Place& place) const;

 private:
  /// The lane of a set that has the curve: the active track's, else the first.
  QRectF laneOf(const MicSet& set) const;
  void paintClip(QPainter& p, const MicSet& set, const Clip& clip, const QRectF& box) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
  const HitOverlay& hits_;  ///< drags are drawn to what targets are
  std::optional<Place> hovered_;
};

}  // namespace ochron

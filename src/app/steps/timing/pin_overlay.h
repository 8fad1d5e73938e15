#pragma once

#include "canvas/overlay.h"
#include "document/pin_desk.h"
#include "document/selection.h"

namespace ochron {

/// Where sound is stretched: how fast it runs as a curve on the lane, slower above and faster below its middle, and on
/// the curve its pins to take hold of.
class PinOverlay : public SpotOverlay<PinRef> {
 public:
  using SpotOverlay::SpotOverlay;
  void paint(QPainter& p) const override;
  std::optional<PinRef> at(QPointF point) const override;
  /// Pins the place of a clip there in the Timing step.
  bool doubleClick(QPointF point) override;
  bool keepsPins() const override { return true; }

 protected:
  Look lookOf(const PinRef& place) const override;
  void chooseSpot(const PinRef& place) override;
  /// Chooses the pin that is pressed, or adds it to those that are chosen (Ctrl), and begins its drag.
  std::unique_ptr<Gesture> take(const PinRef& place, const Press& press) override;

 private:
  /// The lane of a set that has the curve: the active track's, else the first.
  QRectF laneOf(const MicSet& set) const;
  void paintClip(QPainter& p, const MicSet& set, const Clip& clip, const QRectF& box) const;
};

/// Dragging a place that is pinned from then on. Shift: free of the grid; Alt: what follows comes along; Ctrl: both
/// sides give way.
std::unique_ptr<Gesture> pinDrag(Document& doc, ViewState& view, const PinRef& place, const Press& press);

}  // namespace ochron

#pragma once

#include "canvas/overlay.h"
#include "document/selection.h"

namespace ochron {

/// Bar lines in the tempo step: those that are tied to the recording, those that were heard and not taken yet, and
/// dragging one onto its attack.
class TempoOverlay : public SpotOverlay<Ticks> {
 public:
  using SpotOverlay::SpotOverlay;
  void paint(QPainter& p) const override;
  /// The bar line, or where beats are far apart the beat, that is nearest to a point within a few pixels.
  std::optional<Ticks> at(QPointF point) const override;

 protected:
  Look lookOf(const Ticks&) const override { return {Qt::SplitHCursor, {}}; }
  void chooseSpot(const Ticks& line) override;
  /// Dragging a line makes it an anchor: to the attack nearest to the pointer, with Shift freely; with Alt all bars
  /// move and none becomes an anchor.
  std::unique_ptr<Gesture> take(const Ticks& line, const Press& press) override;
};

/// The marks of anchors on the bar ruler, in the tempo step.
void paintAnchorMarks(QPainter& p, Document& doc, const ViewState& view, double y);

}  // namespace ochron

#pragma once

#include "canvas/overlay.h"
#include "document/selection.h"

namespace ochron {

class HitOverlay;

/// A clip's end, or a hit in it, that the clip is fitted by where recordings follow.
struct FitSpot {
  ClipId clip;
  Frames take;         ///< what is dragged, take time
  bool start = false;  ///< the clip's start is: its end holds
  bool operator==(const FitSpot&) const = default;
};

/// Fitting clips to the song by hand, in the Tempo step while recordings follow.
class FitOverlay : public SpotOverlay<FitSpot> {
 public:
  FitOverlay(Document& document, ViewState& view, const LaneLayout& lanes, const HitOverlay& hits)
      : SpotOverlay(document, view, lanes), hits_(hits) {}

  void paint(QPainter&) const override {}
  std::optional<FitSpot> at(QPointF point) const override;

 protected:
  Look lookOf(const FitSpot&) const override { return {Qt::SplitHCursor, {}}; }
  void chooseSpot(const FitSpot&) override {}
  /// Dragging it makes the clip as much longer or shorter as brings it to the pointer: onto the nearest beat, with
  /// Shift freely.
  std::unique_ptr<Gesture> take(const FitSpot& spot, const Press& press) override;

 private:
  const HitOverlay& hits_;
};

}  // namespace ochron

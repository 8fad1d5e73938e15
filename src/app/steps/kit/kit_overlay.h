#pragma once

#include "canvas/overlay.h"
#include "song/layer_strokes.h"

namespace ochron {

/// A layer's sound on one stroke.
struct StrokeSpot {
  LayerId layer;
  TakeId take;
  HitId hit;
  bool operator==(const StrokeSpot&) const = default;
};

/// Layers on their own lanes: a stem on every stroke, as tall as it is loud, with the sound behind it.
class KitOverlay : public SpotOverlay<StrokeSpot> {
 public:
  using SpotOverlay::SpotOverlay;
  void paint(QPainter& p) const override;
  /// The stroke whose stem is nearest to a point of a layer's lane, within a few pixels.
  std::optional<StrokeSpot> at(QPointF point) const override;

 protected:
  Look lookOf(const StrokeSpot& spot) const override;
  void chooseSpot(const StrokeSpot& spot) override;
  /// In the Kit step dragging up or down changes the stroke's level.
  std::unique_ptr<Gesture> take(const StrokeSpot& spot, const Press& press) override;

 private:
  QString tipFor(const StrokeSpot& spot) const;
  void paintLayer(QPainter& p, const Layer& layer, const QRectF& box, FrameRange seen) const;
};

}  // namespace ochron

#pragma once

#include <QPainter>
#include <functional>
#include <memory>
#include <optional>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"
#include "song/layer_strokes.h"

namespace ochron {

class LaneLayout;

/// Layers on their own lanes: a stem on every stroke, as tall as it is loud, with the sound behind it.
class KitOverlay {
 public:
  KitOverlay(Document& document, ViewState& view, const LaneLayout& lanes)
      : doc_(document), view_(view), lanes_(lanes) {}

  struct Spot {
    LayerId layer;
    TakeId take;
    HitId hit;
    bool operator==(const Spot&) const = default;
  };
  void paint(QPainter& p, FrameRange seen) const;
  /// The stroke whose stem is nearest to a point of a layer's lane, within a few pixels.
  std::optional<Spot> at(QPointF point) const;
  /// Chooses the stroke; dragging up or down changes its level in the Kit step. `tell` gets the sentence.
  std::unique_ptr<Gesture> press(QPointF point, const Spot& spot, std::function<void(const QString&)> tell) const;
  bool hover(std::optional<Spot> spot);
  QString tipFor(const Spot& spot) const;

 private:
  void paintLayer(QPainter& p, const Layer& layer, const QRectF& box, FrameRange seen) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
  std::optional<Spot> hovered_;
};

}  // namespace ochron

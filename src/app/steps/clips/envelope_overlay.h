#pragma once

#include "canvas/envelope_curve.h"

namespace ochron {

class LaneLayout;

/// The envelopes of the shown kind on the lanes: one a track, or one a clip. They lie over the sound and leave fades
/// and edges to be grabbed.
class EnvelopeOverlay {
 public:
  EnvelopeOverlay(Document& document, ViewState& view, const LaneLayout& lanes)
      : doc_(document), view_(view), lanes_(lanes) {}

  void paint(QPainter& p) const;
  std::optional<EnvelopeSpot> at(QPointF point) const;
  std::unique_ptr<Gesture> grab(QPointF point, const EnvelopeSpot& spot,
                                std::function<void(const QString&)> tell) const;
  /// True when there was an envelope to put a point on or take one from.
  bool doubleClick(QPointF point) const;

 private:
  bool onLanes() const;
  /// The envelopes standing at a lane; of clips, those in sight.
  std::vector<EnvelopeLane> lanesAt(int index) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
};

}  // namespace ochron

#pragma once

#include "canvas/envelope_curve.h"
#include "canvas/overlay.h"

namespace ochron {

class ClipOverlay;

/// The envelopes of the shown kind on the lanes: one a track, or one a clip. They lie over the sound and leave fades to
/// be grabbed.
class EnvelopeOverlay : public SpotOverlay<EnvelopeSpot> {
 public:
  EnvelopeOverlay(Document& document, ViewState& view, const LaneLayout& lanes, const ClipOverlay& clips)
      : SpotOverlay(document, view, lanes), clips_(clips) {}
  void paint(QPainter& p) const override;
  std::optional<EnvelopeSpot> at(QPointF point) const override;
  /// Puts a point on the envelope or takes one from it.
  bool doubleClick(QPointF point) override;

 protected:
  Look lookOf(const EnvelopeSpot& spot) const override;
  void chooseSpot(const EnvelopeSpot& spot) override;
  std::unique_ptr<Gesture> take(const EnvelopeSpot& spot, const Press& press) override;

 private:
  bool onLanes() const;
  /// The envelopes standing at a lane; of clips, those in sight.
  std::vector<EnvelopeLane> lanesAt(int index) const;

  const ClipOverlay& clips_;  ///< their fades are reached first
};

}  // namespace ochron

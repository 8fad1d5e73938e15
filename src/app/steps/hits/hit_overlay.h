#pragma once

#include "canvas/overlay.h"
#include "document/selection.h"

namespace ochron {

/// The active set's hits on the lanes: marks, gestures' ties, whiskers to their targets, and the threshold while the
/// sensitivity is held.
class HitOverlay : public SpotOverlay<HitRef> {
 public:
  using SpotOverlay::SpotOverlay;
  void paint(QPainter& p) const override;
  /// The hit whose mark is nearest to a point, within a few pixels.
  std::optional<HitRef> at(QPointF point) const override;
  /// Adds a hit in the Hits step.
  bool doubleClick(QPointF point) override;

 protected:
  Look lookOf(const HitRef&) const override { return {Qt::PointingHandCursor, {}}; }
  void chooseSpot(const HitRef& hit) override;
  /// In the Timing step a hit's target is dragged where a plan is on; else the hit is pinned and dragged itself.
  std::unique_ptr<Gesture> take(const HitRef& hit, const Press& press) override;

 private:
  void paintOtherSets(QPainter& p) const;
  void paintStanding(QPainter& p) const;
  void paintDots(QPainter& p, const MicSet& set, const QColor& colour) const;
  void paintMark(QPainter& p, const PlannedHit& h, double top, bool dense) const;
  void paintTies(QPainter& p, double top) const;
  void paintThreshold(QPainter& p) const;
};

}  // namespace ochron

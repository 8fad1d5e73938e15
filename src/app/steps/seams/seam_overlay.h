#pragma once

#include "canvas/overlay.h"

namespace ochron {

struct SeamSpot {
  enum class Part { middle, start, end };
  ClipId clip;
  Part part = Part::middle;
  bool operator==(const SeamSpot&) const = default;
};

/// The active set's seams on the lanes, and what is locked or left out of the plan.
class SeamOverlay : public SpotOverlay<SeamSpot> {
 public:
  using SpotOverlay::SpotOverlay;
  void paint(QPainter& p) const override;
  /// Locked ranges and ranges left out of the plan, under everything else.
  void paintUnder(QPainter& p) const override;
  std::optional<SeamSpot> at(QPointF point) const override;

 protected:
  Look lookOf(const SeamSpot&) const override;
  void chooseSpot(const SeamSpot& spot) override;
  std::unique_ptr<Gesture> take(const SeamSpot& spot, const Press& press) override;

 private:
  void paintQuietly(QPainter& p, const MicSet& set) const;
  void paintSeam(QPainter& p, const Clip& clip, double top, double bottom, bool bad, bool chosen) const;
  void paintCurves(QPainter& p, const Clip& clip) const;
};

}  // namespace ochron

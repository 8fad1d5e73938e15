#pragma once

#include "canvas/lane_painter.h"
#include "canvas/overlay.h"
#include "edits/fade_edits.h"
#include "steps/clips/clip_gestures.h"

namespace ochron {

enum class ClipPart {
  body,
  startEdge,
  endEdge,
  fadeIn,
  fadeOut,
  fadeInBend,
  fadeOutBend,
  joint,  ///< where two clips touch: a crossfade is drawn out of it
  span,
  spanStart,
  spanEnd,
};

struct ClipSpot {
  ClipPart part = ClipPart::body;
  ClipId clip;  ///< of a joint, the later one
  SpanId span;
  int lane = 0;
  bool operator==(const ClipSpot&) const = default;
};

/// Clips, their fades, crossfades and silent spans as things to take hold of, in the Clips step.
class ClipOverlay : public SpotOverlay<ClipSpot> {
 public:
  ClipOverlay(Document& document, ViewState& view, const LaneLayout& lanes)
      : SpotOverlay(document, view, lanes), painter_(document, view) {}

  void paintUnder(QPainter& p) const override;
  /// Silent spans, in every step: they win over what lies under them.
  void paintOnSound(QPainter& p) const override;
  void paint(QPainter& p) const override;
  std::optional<ClipSpot> at(QPointF point) const override;
  bool isFade(QPointF point) const;
  void release(bool clicked, Qt::KeyboardModifiers modifiers) override;
  /// Opens the bundle that is clicked.
  bool doubleClick(QPointF point) override;

 protected:
  Look lookOf(const ClipSpot& spot) const override;
  void chooseSpot(const ClipSpot& spot) override;
  std::unique_ptr<Gesture> take(const ClipSpot& spot, const Press& press) override;

 private:
  bool active() const;
  /// The chosen clips in sight, with the top and bottom of their set's lanes.
  void eachChosen(const std::function<void(const Clip&, double top, double bottom)>& draw) const;
  void paintHandles(QPainter& p, const ClipSpot& spot) const;
  void paintGhosts(QPainter& p) const;
  void paintCrossfades(QPainter& p) const;
  void paintBundles(QPainter& p) const;
  void paintSilence(QPainter& p) const;
  void paintTarget(QPainter& p) const;
  std::optional<ClipSpot> spanAt(QPointF point, int lane) const;
  std::optional<ClipSpot> cornerAt(QPointF point, const ClipList& clips, std::size_t i, int lane) const;
  QPointF fadeHandle(const Clip& clip, FadeEnd end, const QRectF& box) const;
  QPointF bendHandle(const Clip& clip, FadeEnd end, const QRectF& box) const;

  QString tipFor(const ClipSpot& spot) const;

  LanePainter painter_;
  std::optional<ClipSpot> pressed_;   ///< until the press is over
  std::optional<ClipSpot> workedOn_;  ///< while it is dragged the material beyond its edges is shown
  std::optional<Snapper::Found> target_;
};

}  // namespace ochron

#pragma once

#include "canvas/lane_painter.h"
#include "edits/fade_edits.h"
#include "steps/clips/clip_gestures.h"

namespace ochron {

class LaneLayout;

/// Clips, their fades, crossfades and silent spans as things to take hold of, in the Clips step.
class ClipOverlay {
 public:
  ClipOverlay(Document& document, ViewState& view, const LaneLayout& lanes)
      : doc_(document), view_(view), lanes_(lanes), painter_(document, view) {}

  enum class Part {
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
  struct Spot {
    Part part = Part::body;
    ClipId clip;  ///< of a joint, the later one
    SpanId span;
    int lane = 0;
    bool operator==(const Spot&) const = default;
  };

  /// Silent spans, in every step: they win over what lies under them.
  void paintSpans(QPainter& p) const;
  void paintUnder(QPainter& p) const;
  void paint(QPainter& p) const;
  std::optional<Spot> at(QPointF point) const;
  /// Chooses what is pressed, and begins its drag.
  std::unique_ptr<Gesture> press(QPointF point, const Spot& spot, Qt::KeyboardModifiers modifiers,
                                 std::function<void(const QString&)> tell);
  /// The press is over and nothing was dragged.
  void click(const Spot& spot, Qt::KeyboardModifiers modifiers);
  bool hover(std::optional<Spot> spot);
  static Qt::CursorShape cursorFor(Part part);
  QString tipFor(const Spot& spot) const;
  /// While something is dragged the material beyond its edges is shown.
  void setWorkedOn(std::optional<Spot> spot) { workedOn_ = spot; }

 private:
  bool active() const;
  /// The chosen clips in sight, with the top and bottom of their set's lanes.
  void eachChosen(const std::function<void(const Clip&, double top, double bottom)>& draw) const;
  void paintHandles(QPainter& p, const Spot& spot) const;
  void paintGhosts(QPainter& p) const;
  void paintCrossfades(QPainter& p) const;
  void paintBundles(QPainter& p) const;
  void paintSilence(QPainter& p) const;
  void paintTarget(QPainter& p) const;
  std::optional<Spot> spanAt(QPointF point, int lane) const;
  std::optional<Spot> cornerAt(QPointF point, const ClipList& clips, std::size_t i, int lane) const;
  QPointF fadeHandle(const Clip& clip, FadeEnd end, const QRectF& box) const;
  QPointF bendHandle(const Clip& clip, FadeEnd end, const QRectF& box) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
  LanePainter painter_;
  std::optional<Spot> hovered_;
  std::optional<Spot> workedOn_;
  std::optional<Snapper::Found> target_;
};

}  // namespace ochron

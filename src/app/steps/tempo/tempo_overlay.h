#pragma once

#include <QPainter>
#include <functional>
#include <memory>
#include <optional>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"
#include "document/selection.h"

namespace ochron {

/// Bar lines in the tempo step: those that are tied to the recording, those that were heard and not taken yet, and
/// dragging one onto its attack.
class TempoOverlay {
 public:
  TempoOverlay(Document& document, ViewState& view) : doc_(document), view_(view) {}

  bool shown() const { return doc_.step() == Step::tempo; }
  bool fits() const;
  void paint(QPainter& p, double top, double bottom) const;
  /// The marks of anchors on the bar ruler.
  void paintMarks(QPainter& p, double y) const;
  /// The bar line, or where beats are far apart the beat, that is nearest to a point within a few pixels.
  std::optional<Ticks> at(QPointF point) const;
  /// Dragging a line makes it an anchor: to the attack nearest to the pointer, with Shift freely; with Alt all bars
  /// move and none becomes an anchor. `tell` gets the sentence.
  std::unique_ptr<Gesture> grab(QPointF point, Ticks line, std::function<void(const QString&)> tell) const;
  bool hover(std::optional<Ticks> line);

  /// A clip's end, or a hit in it, that the clip is fitted by where recordings follow.
  struct FitSpot {
    ClipId clip;
    Frames take;         ///< what is dragged, take time
    bool start = false;  ///< the clip's start is: its end holds
  };
  std::optional<FitSpot> fitAt(QPointF point, const MicSet& set, std::optional<HitRef> hit) const;
  /// Dragging it makes the clip as much longer or shorter as brings it to the pointer: onto the nearest beat, with
  /// Shift freely.
  std::unique_ptr<Gesture> grabFit(QPointF point, const FitSpot& spot, std::function<void(const QString&)> tell) const;

 private:
  Document& doc_;
  ViewState& view_;
  std::optional<Ticks> hovered_;
};

}  // namespace ochron

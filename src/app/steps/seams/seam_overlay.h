#pragma once

#include <QPainter>
#include <functional>
#include <memory>
#include <optional>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"

namespace ochron {

class LaneLayout;

/// The active set's seams on the lanes, and what is locked or left out of the plan.
class SeamOverlay {
 public:
  SeamOverlay(Document& document, ViewState& view, const LaneLayout& lanes)
      : doc_(document), view_(view), lanes_(lanes) {}

  enum class Part { middle, start, end };
  struct Spot {
    ClipId clip;
    Part part = Part::middle;
    bool operator==(const Spot&) const = default;
  };

  void paint(QPainter& p) const;
  /// Locked ranges and ranges left out of the plan, under everything else.
  void paintRanges(QPainter& p) const;
  std::optional<Spot> at(QPointF point) const;
  std::unique_ptr<Gesture> grab(QPointF point, Spot spot, Qt::KeyboardModifiers modifiers,
                                std::function<void(const QString&)> tell) const;
  bool hover(std::optional<Spot> spot);

 private:
  void paintQuietly(QPainter& p, const MicSet& set) const;
  void paintSeam(QPainter& p, const Clip& clip, double top, double bottom, bool bad, bool chosen) const;
  void paintCurves(QPainter& p, const Clip& clip) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
  std::optional<Spot> hovered_;
};

}  // namespace ochron

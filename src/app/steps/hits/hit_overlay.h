#pragma once

#include <QObject>
#include <QPainter>
#include <functional>
#include <memory>
#include <optional>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"
#include "document/selection.h"

namespace ochron {

class LaneLayout;

/// The active set's hits on the lanes: marks, gestures' ties, whiskers to their targets, and the threshold while the
/// sensitivity is held.
class HitOverlay {
 public:
  HitOverlay(Document& document, ViewState& view, const LaneLayout& lanes)
      : doc_(document), view_(view), lanes_(lanes) {}

  void paint(QPainter& p) const;
  /// The hit whose mark is nearest to a point, within a few pixels.
  std::optional<HitRef> at(QPointF point) const;
  /// Dragging a hit's target; none when targets cannot be dragged in the open step. `tell` gets the sentence.
  std::unique_ptr<Gesture> grab(QPointF point, HitRef hit, std::function<void(const QString&)> tell) const;
  /// True when the hovered hit changed.
  bool hover(std::optional<HitRef> hit);
  /// Song time of a place near `at` that a target snaps to.
  std::optional<Frames> snapped(Frames at) const;

 private:
  void paintOtherSets(QPainter& p) const;
  void paintStanding(QPainter& p) const;
  void paintDots(QPainter& p, const MicSet& set, const QColor& colour) const;
  void paintMark(QPainter& p, const PlannedHit& h, double top, bool dense) const;
  void paintTies(QPainter& p, double top) const;
  void paintThreshold(QPainter& p) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
  std::optional<HitRef> hovered_;
};

}  // namespace ochron

#pragma once

#include <QPointF>
#include <functional>
#include <memory>

#include "canvas/snap.h"

namespace ochron {

class LaneLayout;

/// What every drag on the lanes needs: where it began, what it began with, and whom to tell.
struct DragContext {
  Document& doc;
  ViewState& view;
  const LaneLayout& lanes;
  QPointF from;
  std::function<void(const QString&)> tell;                          ///< the status line's sentence
  std::function<void(const std::optional<Snapper::Found>&)> target;  ///< what is snapped to, to be drawn

  std::shared_ptr<const Song> base = doc.version();

  /// Song time the pointer moved since the press.
  Frames moved(QPointF to) const { return view.frameAt(to.x()) - view.frameAt(from.x()); }
  double ms(Frames f) const { return msFromFrames(f, base->rate); }
  /// "12.3.02": bar, beat and hundredths of the beat.
  QString place(Frames at) const;
};

}  // namespace ochron

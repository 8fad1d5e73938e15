#include "canvas/overlay.h"

#include "canvas/lane_layout.h"

namespace ochron {

FrameRange Overlay::exposed(const QPainter& p) const {
  constexpr double kReach = 24;  // pixels
  const auto seen = view_.visible();
  if (!p.hasClipping()) return seen;
  const auto box = p.clipBoundingRect();
  return {std::max(seen.start, view_.frameAt(box.left() - kReach)),
          std::min(seen.end, view_.frameAt(box.right() + kReach) + Frames{1})};
}

bool Overlay::exposes(const QPainter& p, const MicSet& set) const {
  if (set.tracks.empty()) return false;
  const auto [top, bottom] = lanes_.setBounds(set);
  const auto box = p.hasClipping() ? p.clipBoundingRect() : QRectF(0, 0, lanes_.width(), lanes_.height());
  return bottom >= box.top() && top <= box.bottom();
}

}  // namespace ochron

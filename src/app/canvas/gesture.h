#pragma once

#include <QPointF>
#include <Qt>

namespace ochron {

/// Something dragged on the canvas, from press to release. What it does is one undo step; Escape takes it back.
class Gesture {
 public:
  virtual ~Gesture() = default;
  virtual void move(QPointF point, Qt::KeyboardModifiers modifiers) = 0;
};

}  // namespace ochron

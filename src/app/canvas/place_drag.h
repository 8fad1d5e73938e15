#pragma once

#include <QString>
#include <cmath>
#include <functional>
#include <memory>
#include <utility>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"

namespace ochron {

/// Dragging one place of the song to another: nothing happens before the pointer has moved some pixels, and the edit is
/// made anew at every move from the song the drag began with.
class PlaceDrag : public Gesture {
 public:
  using Tell = std::function<void(const QString&)>;
  PlaceDrag(Document& doc, ViewState& view, QPointF from, Tell tell)
      : doc_(doc), view_(view), tell_(std::move(tell)), base_(doc.version()), from_(from) {}

  void move(QPointF point, Qt::KeyboardModifiers modifiers) final {
    constexpr double kThreshold = 3;  // pixels
    if (!moved_ && std::abs(point.x() - from_.x()) < kThreshold) return;
    moved_ = true;
    drag(point.x() - from_.x(), modifiers);
  }

 protected:
  virtual void drag(double pixels, Qt::KeyboardModifiers modifiers) = 0;
  Frames moved(Frames place, double pixels) const { return view_.frameAt(view_.xOf(place) + pixels); }
  bool began() const { return moved_; }
  /// An error in the status line.
  void refuse(const Error& error) const { tell_(QString::fromStdString(error.message)); }

  Document& doc_;
  ViewState& view_;
  Tell tell_;
  std::shared_ptr<const Song> base_;

 private:
  QPointF from_;
  bool moved_ = false;
};

}  // namespace ochron

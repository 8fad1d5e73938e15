#pragma once

#include <QPainter>

#include "document/document.h"
#include "seams/measure.h"

namespace ochron {

/// What the loupe shows of a seam: on every mic the piece before (soft) and the piece after (dense), each going on
/// beyond the crossfade as far as it is recorded, the gain curves, and how the level comes out.
class SeamLoupe {
 public:
  SeamLoupe(Document& document, QRectF plot, Frames middle, double framesPerPixel)
      : doc_(document), plot_(plot), middle_(middle), perPixel_(framesPerPixel) {}
  /// `only`: one mic of the set; none: all of them.
  void paint(QPainter& p, const QString& name, const Clip& later, TrackId only = {}) const;

 private:
  double xOf(Frames song) const { return plot_.center().x() + static_cast<double>((song - middle_).value) / perPixel_; }
  Frames frameAt(double x) const {
    return middle_ + Frames{static_cast<std::int64_t>((x - plot_.center().x()) * perPixel_)};
  }
  QString whyNotListed(const Clip& later) const;
  void paintTitle(QPainter& p, const QString& name, const Clip& earlier, const Clip& later,
                  const std::vector<MicSeam>& levels) const;
  void paintMic(QPainter& p, const QRectF& strip, const Clip& earlier, const Clip& later, TrackId track,
                const MicSeam* level) const;
  void paintPiece(QPainter& p, const QRectF& strip, const Clip& clip, const TakeMic& mic, FrameRange heard, double gain,
                  const QColor& ink) const;

  Document& doc_;
  QRectF plot_;
  Frames middle_;
  double perPixel_;
};

}  // namespace ochron

#pragma once

#include <QPainter>
#include <QRectF>

#include "document/document.h"

namespace ochron {

/// A stretch of song in every mic of a set, one under the other, each at its own loudest so that quiet ones can be
/// read.
class MicStrips {
 public:
  /// `middle`: song time at the middle of `plot`.
  MicStrips(const Document& document, const QRectF& plot, Frames middle, double framesPerPixel)
      : doc_(document), plot_(plot), middle_(middle), perPixel_(framesPerPixel) {}

  void paint(QPainter& p, const MicSet& set, const ClipList& clips) const;
  double xOf(Frames song) const { return plot_.center().x() + static_cast<double>((song - middle_).value) / perPixel_; }

 private:
  /// What one track's mic plays of a stretch: media frame of its first frame, frames of it a frame of the song.
  struct Piece {
    const DecodedMedia* media = nullptr;
    FrameRange range;
    double at = 0;
    double speed = 1;
  };
  std::vector<Piece> pieces(const MicSet& set, const ClipList& clips, TrackId track) const;

  const Document& doc_;
  const QRectF plot_;
  const Frames middle_;
  const double perPixel_;
};

}  // namespace ochron

#pragma once

#include <QColor>
#include <QImage>
#include <QRectF>

#include "media/decoded.h"

namespace ochron {

struct WaveInk {
  QColor soft;  ///< silhouette of the peaks
  QColor core;  ///< RMS
};

/// A transparent picture of `logical` size that waveforms are drawn into column by column.
class WaveCanvas {
 public:
  WaveCanvas(QSize logical, double ratio);
  WaveCanvas(const WaveCanvas&) = delete;
  WaveCanvas& operator=(const WaveCanvas&) = delete;
  ~WaveCanvas() = default;
  /// Draws what is heard from `mediaFrame` (fractional, of the media) at x = `left` on, until `right`. `gain` scales.
  /// Negative `framesPerPixel`: it runs backwards.
  void draw(const DecodedMedia& media, int channel, double mediaFrame, double framesPerPixel, double left, double right,
            double top, double height, double gain, const WaveInk& ink);
  /// Something between two places would be drawn: where thousands of pieces share the columns most have none.
  bool hasColumns(double left, double right) const;
  const QImage& image() const { return image_; }

 private:
  void column(int x, double low, double high, QRgb colour);
  QImage image_;
  QRgb* pixels_ = nullptr;  ///< of the image
  double ratio_;
};

/// Draws samples as a line with dots, for zooms above one pixel a sample.
void drawSamples(QPainter& painter, const DecodedMedia& media, int channel, double mediaFrame, double framesPerPixel,
                 const QRectF& box, double gain, const QColor& ink);

}  // namespace ochron

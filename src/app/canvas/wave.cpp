#include "canvas/wave.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

struct Column {
  float low = 0;
  float high = 0;
  float rms = 0;
};

Column fromPeaks(std::span<const Peak> bins, double first, double last, double binFrames) {
  Column c;
  const auto a = std::clamp<std::int64_t>(static_cast<std::int64_t>(first / binFrames), 0, std::ssize(bins));
  const auto b =
      std::clamp<std::int64_t>(std::max(a + 1, static_cast<std::int64_t>(last / binFrames)), 0, std::ssize(bins));
  if (b <= a) return c;
  int low = 32767;
  int high = -32767;
  float squares = 0;
  for (auto i = a; i < b; ++i) {
    const auto& p = bins[static_cast<std::size_t>(i)];
    low = std::min<int>(low, p.low);
    high = std::max<int>(high, p.high);
    squares += static_cast<float>(p.rms) * static_cast<float>(p.rms);
  }
  return {static_cast<float>(low) / 32767, static_cast<float>(high) / 32767,
          std::sqrt(squares / static_cast<float>(b - a)) / 32767};
}

Column fromSamples(const Samples& s, double first, double last) {
  Column c;
  const auto a = std::clamp<std::int64_t>(static_cast<std::int64_t>(first), 0, std::ssize(s));
  const auto b = std::clamp<std::int64_t>(std::max(a + 1, static_cast<std::int64_t>(last) + 1), 0, std::ssize(s));
  if (b <= a) return c;
  c.low = 2;
  c.high = -2;
  float squares = 0;
  for (auto i = a; i < b; ++i) {
    const float v = s[static_cast<std::size_t>(i)];
    c.low = std::min(c.low, v);
    c.high = std::max(c.high, v);
    squares += v * v;
  }
  c.rms = std::sqrt(squares / static_cast<float>(b - a));
  return c;
}

}  // namespace

WaveCanvas::WaveCanvas(QSize logical, double ratio)
    : image_(logical * ratio, QImage::Format_ARGB32_Premultiplied), ratio_(ratio) {
  image_.setDevicePixelRatio(ratio);
  image_.fill(Qt::transparent);
  pixels_ = reinterpret_cast<QRgb*>(image_.bits());
}

void WaveCanvas::column(int x, double low, double high, QRgb colour) {
  // Full pixels inside, shares of a pixel at both ends: smooth edges without a painter.
  if (high - low < 1) {
    const double middle = (low + high) / 2;
    low = middle - 0.5;
    high = middle + 0.5;
  }
  low = std::max(low, 0.0);
  high = std::min(high, static_cast<double>(image_.height()));
  if (high <= low) return;
  const auto stride = image_.bytesPerLine() / 4;
  auto* top = pixels_ + x;
  const auto part = [&](int y, double cover) {
    if (cover <= 0 || y >= image_.height()) return;
    auto* at = top + y * stride;
    const auto a = static_cast<unsigned>(cover * 256);
    const auto mix = [&](int shift) {
      return (((colour >> shift) & 255u) * a + ((*at >> shift) & 255u) * (256 - a)) >> 8;
    };
    *at = (mix(24) << 24) | (mix(16) << 16) | (mix(8) << 8) | mix(0);
  };
  const int first = static_cast<int>(std::ceil(low));
  const int last = static_cast<int>(high);  // the row after the last whole one
  if (first > last) return part(last, high - low);
  if (first > 0) part(first - 1, first - low);
  auto* at = top + first * stride;
  for (int y = first; y < last; ++y, at += stride) *at = colour;
  part(last, high - last);
}

bool WaveCanvas::hasColumns(double left, double right) const {
  return std::ceil(left * ratio_) < std::ceil(right * ratio_);
}

void WaveCanvas::draw(const DecodedMedia& media, int channel, double mediaFrame, double framesPerPixel, double left,
                      double right, double top, double height, double gain, const WaveInk& ink) {
  const int x0 = std::max(0, static_cast<int>(std::ceil(left * ratio_)));
  const int x1 = std::min(image_.width(), static_cast<int>(std::ceil(right * ratio_)));
  const double perColumn = framesPerPixel / ratio_;
  const auto& pyramid = media.peaks(channel);
  const int level = pyramid.levelFor(std::abs(perColumn));
  double binFrames = kPeakBaseFrames;
  for (int l = 0; l < level; ++l) binFrames *= kPeakLevelFactor;
  const double middle = (top + height / 2) * ratio_;
  const double reach = gain * height / 2 * ratio_ * 0.94;
  const QRgb soft = qPremultiply(ink.soft.rgba());
  const QRgb core = qPremultiply(ink.core.rgba());
  for (int x = x0; x < x1; ++x) {
    const double here = mediaFrame + (x / ratio_ - left) * framesPerPixel;
    const double first = std::min(here, here + perColumn);  // sound may run backwards
    const double last = std::max(here, here + perColumn);
    if (last < 0 || first >= static_cast<double>(media.length().value)) continue;
    const auto c = level >= 0 ? fromPeaks(pyramid.levels[static_cast<std::size_t>(level)], first, last, binFrames)
                              : fromSamples(media.channel(channel), first, last);
    const auto limit = [&](double v) { return std::clamp(v, -1.0, 1.0) * reach; };
    const double up = limit(c.high * 1.0);
    const double down = limit(c.low * 1.0);
    column(x, middle - up, middle - down, soft);
    const double rms = std::min({static_cast<double>(c.rms) * reach, std::max(up, 0.5), std::max(-down, 0.5)});
    if (rms > 0.4) column(x, middle - rms, middle + rms, core);
  }
}

void drawSamples(QPainter& painter, const DecodedMedia& media, int channel, double mediaFrame, double framesPerPixel,
                 const QRectF& box, double gain, const QColor& ink) {
  const auto samples = media.channel(channel);
  const double other = mediaFrame + box.width() * framesPerPixel;
  const auto first = std::max<std::int64_t>(0, static_cast<std::int64_t>(std::min(mediaFrame, other)) - 1);
  const auto last =
      std::min<std::int64_t>(std::ssize(samples), static_cast<std::int64_t>(std::max(mediaFrame, other)) + 2);
  const auto point = [&](std::int64_t i) {
    return QPointF(box.left() + (static_cast<double>(i) - mediaFrame) / framesPerPixel,
                   box.center().y() -
                       std::clamp(samples[static_cast<std::size_t>(i)] * gain, -1.0, 1.0) * box.height() / 2 * 0.94);
  };
  QPolygonF line;
  for (auto i = first; i < last; ++i) line << point(i);
  painter.save();
  painter.setClipRect(box, Qt::IntersectClip);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(ink, 1.2));
  painter.drawPolyline(line);
  if (std::abs(framesPerPixel) < 0.2) {
    painter.setBrush(ink);
    for (const auto& p : line) painter.drawEllipse(p, 1.7, 1.7);
  }
  painter.restore();
}

}  // namespace ochron

#pragma once

#include <QObject>
#include <QVariantAnimation>
#include <algorithm>
#include <cmath>

#include "base/units.h"

namespace ochron {

inline constexpr int kGutterWidth = 128;  ///< track heads and labels left of every row of the canvas

/// From this height on a lane's head has two lines: the whole name, and what belongs to the track under it.
inline constexpr int kTwoLineLane = 32;

/// Which part of the song the canvas shows; shared by lanes, ruler, song strip and timing graph. Pixels are logical.
class ViewState : public QObject {
  Q_OBJECT
 public:
  explicit ViewState(QObject* parent = nullptr) : QObject(parent) {
    glide_.setStartValue(0.0);
    glide_.setEndValue(1.0);
    glide_.setEasingCurve(QEasingCurve::OutCubic);
    connect(&glide_, &QVariantAnimation::valueChanged, this, [this](const QVariant& v) { glideBy(v.toDouble()); });
  }

  double firstFrame() const { return first_; }
  double framesPerPixel() const { return perPixel_; }
  int width() const { return width_; }
  int laneHeight() const { return laneHeight_; }
  int laneScroll() const { return laneScroll_; }

  double xOf(Frames f) const { return kGutterWidth + (static_cast<double>(f.value) - first_) / perPixel_; }
  Frames frameAt(double x) const { return Frames{std::llround(first_ + (x - kGutterWidth) * perPixel_)}; }
  FrameRange visible() const { return {frameAt(kGutterWidth), frameAt(kGutterWidth + width_) + Frames{1}}; }

  void setWidth(int pixels) { width_ = std::max(1, pixels), keepInside(), emit changed(); }
  void setSongEnd(Frames end) { end_ = end, keepInside(), emit changed(); }
  /// The song runs at this rate (Hz): what is shown stays the same stretch of time.
  void setRate(int rate) {
    if (rate == rate_) return;
    const double times = static_cast<double>(rate) / rate_;
    rate_ = rate;
    end_ = Frames{std::llround(static_cast<double>(end_.value) * times)};
    show(first_ * times, perPixel_ * times);
  }
  void show(double firstFrame, double framesPerPixel) {
    glide_.stop();
    perPixel_ = std::clamp(framesPerPixel, 1.0 / 24, std::max(64.0, widest()));
    first_ = firstFrame;
    keepInside();
    toFirst_ = first_;
    toPerPixel_ = perPixel_;
    emit changed();
  }
  void showAll() { glideTo(-0.01 * static_cast<double>(end_.value), widest()); }
  void scrollBy(double pixels) { show(first_ + pixels * perPixel_, perPixel_); }
  /// `factor` below 1 comes closer; what is under `x` stays there.
  void zoomAt(double x, double factor) {
    const double under = first_ + (x - kGutterWidth) * perPixel_;
    const double next = std::clamp(perPixel_ * factor, 1.0 / 24, std::max(64.0, widest()));
    show(under - (x - kGutterWidth) * next, next);
  }
  /// As zoomAt(), by a key: gliding.
  void zoomInto(double x, double factor) {
    const double under = toFirst_ + (x - kGutterWidth) * toPerPixel_;
    const double next = std::clamp(toPerPixel_ * factor, 1.0 / 24, std::max(64.0, widest()));
    glideTo(under - (x - kGutterWidth) * next, next);
  }
  /// Scrolls as little as is needed to see `f` with some room around it.
  void reveal(Frames f) {
    const double margin = 0.12 * width_ * perPixel_;
    const double at = static_cast<double>(f.value);
    if (at < first_ + margin || at > first_ + width_ * perPixel_ - margin)
      glideTo(at - 0.35 * width_ * perPixel_, perPixel_);
  }
  /// Jumps and zooms by key take so long, ms, that the eye can follow; 0: they are at once.
  void setGlide(int ms) { glide_.setDuration(ms), gliding_ = ms > 0; }
  bool glides() const { return gliding_; }
  void setLaneHeight(int h) { laneHeight_ = std::clamp(h, 22, 320), lanesByHand_ = true, emit changed(); }
  /// Lanes take the room there is, until their height was set by hand. `slim`: beside a tall bench they give way to it,
  /// so that as many as can be stay in sight.
  void fitLanes(int room, int count, bool slim) {
    if (lanesByHand_ || count <= 0) return;
    const int fits = room / count;  // a little less than usual, if all of them are whole then
    const int least = slim ? kSlimLane : fits < kTwoLineLane ? kLaneHeight : kTwoLineLane;
    const int wanted = std::clamp(fits, least, kTallLane);
    if (wanted == laneHeight_) return;
    laneHeight_ = wanted;
    emit changed();
  }
  void setLaneScroll(int y) { laneScroll_ = std::max(0, y), emit changed(); }

 signals:
  void changed();

 private:
  void glideTo(double first, double perPixel) {
    const double wasFirst = first_;
    const double wasPerPixel = perPixel_;
    show(first, perPixel);
    if (!gliding_ || (wasFirst == first_ && wasPerPixel == perPixel_)) return;
    fromFirst_ = wasFirst;
    fromPerPixel_ = wasPerPixel;
    glide_.start();
    glideBy(0);
  }
  /// Zooming keeps one place of the screen where it is throughout.
  void glideBy(double along) {
    perPixel_ = fromPerPixel_ * std::pow(toPerPixel_ / fromPerPixel_, along);
    const double zoomed =
        toPerPixel_ != fromPerPixel_ ? (perPixel_ - fromPerPixel_) / (toPerPixel_ - fromPerPixel_) : along;
    first_ = fromFirst_ + (toFirst_ - fromFirst_) * zoomed;
    emit changed();
  }
  double widest() const {
    return 1.04 * static_cast<double>(std::max<std::int64_t>(end_.value, rate_)) / std::max(1, width_);
  }
  void keepInside() {
    const double span = width_ * perPixel_;
    const double low = -0.05 * span - rate_;
    first_ = std::clamp(first_, low, std::max(low, static_cast<double>(end_.value) - 0.5 * span));
  }

  QVariantAnimation glide_;
  bool gliding_ = false;
  double fromFirst_ = 0;
  double fromPerPixel_ = 400;
  double toFirst_ = 0;
  double toPerPixel_ = 400;
  double first_ = 0;
  double perPixel_ = 400;
  int width_ = 700;
  static constexpr int kSlimLane = 19;
  static constexpr int kLaneHeight = 34;
  static constexpr int kTallLane = 72;
  int laneHeight_ = kLaneHeight;
  bool lanesByHand_ = false;
  int laneScroll_ = 0;
  int rate_ = 48'000;
  Frames end_{48'000 * 60};
};

}  // namespace ochron

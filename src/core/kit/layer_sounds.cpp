#include "kit/layer_sounds.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <numbers>
#include <tuple>

#include "dsp/varispeed.h"

namespace ochron {
namespace {

/// Second-order Butterworth section, bilinear (R. Bristow-Johnson, Audio EQ Cookbook).
class Cut {
 public:
  enum class Kind { low, high };
  Cut(Kind kind, double hertz, int rate) {
    const double w = 2 * std::numbers::pi * std::min(hertz, 0.49 * rate) / rate;
    const double alpha = std::sin(w) / std::numbers::sqrt2;
    const double c = std::cos(w);
    const double a0 = 1 + alpha;
    const double side = (kind == Kind::low ? 1 + c : 1 - c) / 2 / a0;
    b_ = {side, (kind == Kind::low ? -2 : 2) * side, side};
    a_ = {-2 * c / a0, (1 - alpha) / a0};
  }
  void apply(std::vector<float>& x) const {
    double x1 = 0;
    double x2 = 0;
    double y1 = 0;
    double y2 = 0;
    for (auto& v : x) {
      const double in = static_cast<double>(v);
      const double y = b_[0] * in + b_[1] * x1 + b_[2] * x2 - a_[0] * y1 - a_[1] * y2;
      x2 = x1;
      x1 = in;
      y2 = y1;
      y1 = y;
      v = static_cast<float>(y);
    }
  }

 private:
  std::array<double, 3> b_{};
  std::array<double, 2> a_{};
};

/// `most`: frames asked for.
std::vector<float> atPitch(const std::vector<float>& x, double speed, std::size_t most) {
  const auto length = std::min(most, static_cast<std::size_t>(std::ceil(static_cast<double>(x.size()) / speed)));
  std::vector<float> out(length);
  const SpeedSource source{x.data(), 1, std::ssize(x)};
  for (std::size_t i = 0; i < length; ++i) out[i] = speedRead(source, static_cast<double>(i) * speed, speed);
  return out;
}

void fadeOut(std::vector<float>& x, std::int64_t frames) {
  const auto n = std::min<std::int64_t>(frames, std::ssize(x));
  for (std::int64_t i = 0; i < n; ++i)
    x[x.size() - 1 - static_cast<std::size_t>(i)] *=
        static_cast<float>((static_cast<double>(i) + 0.5) / static_cast<double>(n));
}

}  // namespace

Samples sideOf(const KitSound& sound, const DecodedMedia& media, int channel) {
  const auto all = media.channel(channel);
  const auto from = std::clamp<std::int64_t>(sound.range.start.value, 0, std::ssize(all));
  const auto to = std::clamp<std::int64_t>(sound.range.end.value, from, std::ssize(all));
  return all.subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(to - from));
}

PlayedSound playedSound(const KitSound& sound, const LayerSettings& settings, const DecodedMedia& media) {
  PlayedSound out;
  const double speed = std::exp2((settings.cents + sound.cents) / 1200);
  if (speed != 1) prepareSpeedReading();
  const auto rate = media.rate();
  out.attack = Frames{std::llround(static_cast<double>(sound.attack.value) / speed)};
  std::size_t most = SIZE_MAX;
  if (settings.lengthMs > 0)
    most = static_cast<std::size_t>((out.attack + framesFromMs(settings.lengthMs, rate)).value);
  for (int c = 0; c < std::min(2, media.channels()); ++c) {
    auto x = sideOf(sound, media, c).copy();
    if (speed != 1) x = atPitch(x, speed, most);
    x.resize(std::min(x.size(), most));
    if (settings.lowCut > 0) Cut(Cut::Kind::low, settings.lowCut, rate).apply(x);
    if (settings.highCut < kLayerHighCutRange.high) Cut(Cut::Kind::high, settings.highCut, rate).apply(x);
    fadeOut(x, framesFromMs(settings.fadeMs, rate).value);
    out.channels.push_back(std::move(x));
  }
  return out;
}

bool makeTheSameSounds(const LayerSettings& a, const LayerSettings& b) {
  const auto shape = [](const LayerSettings& s) {
    return std::tuple(s.cents, s.lengthMs, s.fadeMs, s.lowCut, s.highCut);
  };
  return shape(a) == shape(b);
}

}  // namespace ochron

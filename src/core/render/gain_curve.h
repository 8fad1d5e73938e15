#pragma once

#include <functional>
#include <span>
#include <vector>

#include "song/song.h"

namespace ochron {

struct GainPoint {
  Frames at;
  float gain = 1;

  bool operator==(const GainPoint&) const = default;
};

/// A gain over song time: straight between its points, level outside. Empty: 1. Sorted, no two at one place.
using GainCurve = std::vector<GainPoint>;

/// Reads a curve forwards. Allocates nothing.
class CurveReader {
 public:
  CurveReader(const GainCurve& curve, Frames from) noexcept;
  /// Places must not go backwards.
  float at(Frames f) noexcept;

 private:
  const GainCurve& curve_;
  std::size_t next_ = 0;
};

/// Multiplies by the curve from song time `at` on. Allocates nothing; the block size cannot be heard.
void applyGain(const GainCurve& curve, Frames at, std::span<float> samples) noexcept;

/// An envelope in dB as gains; kSilentDb is silence.
GainCurve decibelCurve(const Envelope& envelope);
/// Both gains multiplied.
GainCurve product(const GainCurve& a, const GainCurve& b);
/// A curve through `gain` at the knots and finely in between.
GainCurve baked(std::vector<Frames> knots, const std::function<double(Frames)>& gain);

/// The short fades before a silent span's start and its end.
inline constexpr double kSpanFadeSeconds = 0.004;
/// Silent in the ranges, with short fades as MuteSpan describes them. `ranges` in any order, overlapping or not.
GainCurve gateCurve(std::vector<FrameRange> ranges, int rate);
/// What a track's spans and mute envelope let through.
GainCurve gateOf(const Song& song, const Track& track);

}  // namespace ochron

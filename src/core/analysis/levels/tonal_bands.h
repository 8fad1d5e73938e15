#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "base/hop.h"

namespace ochron {

/// A sound in 159 bands of a quarter tone from 60 Hz to 6 kHz, every 5 ms. Amplitudes are
/// square roots of magnitudes: overtones count beside the fundamental, hiss does not.
class TonalBands {
 public:
  static constexpr int kPerSecond = 200;

  /// `rate` in Hz; windows are the next power of two from `windowSeconds`.
  TonalBands(std::span<const float> samples, int rate, double windowSeconds);

  const Hop& hop() const { return hop_; }
  std::int64_t count() const { return bands_ ? std::ssize(values_) / static_cast<std::int64_t>(bands_) : 0; }
  std::size_t bands() const { return bands_; }
  /// How many of the lowest lie below a frequency in Hz.
  std::size_t bandsBelow(double hertz) const;
  /// The n-th window, centred at n hops.
  std::span<const float> frame(std::int64_t n) const {
    return std::span(values_).subspan(static_cast<std::size_t>(n) * bands_, bands_);
  }
  /// The strongest band of a loud moment.
  float loud() const { return loud_; }

 private:
  Hop hop_;
  std::size_t bands_ = 0;
  std::vector<float> values_;
  float loud_ = 0;
};

}  // namespace ochron

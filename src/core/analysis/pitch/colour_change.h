#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <vector>

#include "dsp/fft.h"

namespace ochron {

/// By how much the colour of a sound changes about a moment: how far the spectra of the 110 ms that end 40 ms before it
/// and of those that begin 60 ms after it lie apart, over nine bands from 150 to 5 500 Hz, their level aside. What lies
/// 40 dB under the loudest band does not count.
class ColourChange {
 public:
  ColourChange(std::span<const float> samples, int rate);
  /// dB RMS: a held vowel stays under 4, another vowel is at 5 to 13. 0 where the sound does not reach that far.
  double at(double seconds);

 private:
  static constexpr std::size_t kBands = 9;
  using Bands = std::array<double, kBands>;
  Bands powers(std::span<const float> sound);

  std::span<const float> samples_;
  int rate_;
  RealFft fft_;
  std::vector<float> window_;
  std::array<std::size_t, kBands + 1> firstBins_{};  // of each band, and the end of the last
};

}  // namespace ochron

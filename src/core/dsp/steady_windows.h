#pragma once

#include <cstdint>
#include <map>
#include <vector>

#include "dsp/fft.h"
#include "dsp/sliding_source.h"

namespace ochron {

/// Chooses how long a window a place of a sound bears: the longest of four whose two halves have the same spectrum.
/// Long ones part the partials of a chord, short ones keep what begins or bends in its place. Not thread-safe.
class SteadyWindows {
 public:
  /// `shortest` frames, a power of two; the longest is eight times that. Reads half a longest window, and half of
  /// `shortest`, around each place.
  SteadyWindows(int rate, int shortest, SlidingSource& source);

  /// The window about a frame; places must rise from call to call.
  int at(std::int64_t frame);

 private:
  using Magnitudes = std::vector<float>;
  struct Scale {
    RealFft fft;
    std::vector<float> window;
    std::map<std::int64_t, Magnitudes> kept;  ///< by step
  };
  const Magnitudes& magnitudes(Scale& scale, std::int64_t step);
  bool keepsPitch(std::int64_t step);

  int rate_;
  int shortest_;
  int last_ = 0;  ///< the window chosen last
  SlidingSource& source_;
  std::vector<Scale> scales_;  ///< of half the window each
};

}  // namespace ochron

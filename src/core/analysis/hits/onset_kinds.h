#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "analysis/levels/flux.h"
#include "dsp/fft.h"

namespace ochron {

/// How much of what is heard after an attack (twice, the louder counts) was not there before, 0 to 1.
double newShare(const BandFrame& before, const BandFrame& after, const BandFrame& body);

/// Tells drums apart by where an attack's new power lies in its first 43 ms, and by how it rings on.
class DrumGuesser {
 public:
  explicit DrumGuesser(int rate);
  /// 0 to 1 for kick, snare, tom, hat and cymbal; all 0 of an attack that adds nothing.
  std::array<double, 5> likeness(std::span<const float> samples, std::int64_t at);

 private:
  int rate_;
  RealFft fft_;
  std::vector<float> fade_;
};

}  // namespace ochron

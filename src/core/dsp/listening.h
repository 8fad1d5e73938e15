#pragma once

#include <span>
#include <vector>

#include "base/hop.h"
#include "base/result.h"
#include "base/units.h"
#include "dsp/samples.h"

namespace ochron {

/// What listens to sound (hits, beats, pitch) hears it at this rate, Hz, whatever it was recorded at: windows and hops
/// are whole numbers of frames there, and what was learned from recordings holds for all rates alike.
inline constexpr int kListeningRate = 48'000;

/// One channel of `rate` Hz at the listening rate; as it lies where that is its own.
class Listening {
 public:
  /// Fails where the rate cannot be converted.
  static Result<Listening> to(const Samples& samples, int rate);

  std::span<const float> samples() const { return own_.empty() ? lies_ : std::span<const float>(own_); }

 private:
  std::span<const float> lies_;
  std::vector<float> own_;
};

/// A place in frames of one rate as the nearest frame of another.
constexpr Frames atRate(Frames at, int from, int to) { return Frames{Hop(to, from).nearest(at.value)}; }

}  // namespace ochron

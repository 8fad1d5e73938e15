#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

#include "terms/sung.h"

namespace ochron {

/// How like one period is to the next, and how loud it is, of what lies between 50 and 3500 Hz: breath, room and hiss
/// lie mostly beside it. At some 24 kHz; a track's values are its places.
class Periodicity {
 public:
  /// `rate` in Hz.
  Periodicity(std::span<const float> samples, int rate);
  /// The same of what changes from sample to sample: +6 dB an octave, so that a bass counts for less.
  Periodicity derivative() const;

  /// The likeness of two neighbouring stretches of two periods, and at least 10 ms, about a value: 1 the same, 0
  /// nothing in common; the most for a period within 3 % of that of `hertz`. 0 without a pitch, and beyond the ends.
  double likeness(std::size_t value, double hertz) const;
  /// Level of the 20 ms about a value, dB of full scale.
  double level(std::size_t value) const;
  std::span<const float> sound() const { return sound_; }
  double rate() const { return rate_; }
  std::int64_t frameOf(std::size_t value) const;

 private:
  Periodicity(std::vector<float> sound, double rate);

  std::vector<float> sound_;
  std::vector<double> squares_;  // cumulative
  double rate_;
};

/// What a track's values are among: how like their periods are, their levels, and what lies under all of them.
struct HeardPeriods {
  std::vector<double> likeness;  ///< of each value's period and the next, 0 to 1
  std::vector<double> level;     ///< dB
  double floor = 0;              ///< dB: of noise, room and breath
  double top = 0;                ///< dB: of the loudest hundredth

  /// The likeness without what the floor takes from it; `leastOverDb`: the level over the floor is taken as this at
  /// least.
  double overNoise(std::size_t value, double leastOverDb) const;
};
HeardPeriods heardPeriods(const Periodicity& sound, const std::vector<PitchTrack::Value>& values);

}  // namespace ochron

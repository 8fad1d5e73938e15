#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "base/hop.h"
#include "base/progress.h"

namespace ochron {

/// Energy of seven bands (20 Hz to 18 kHz, from low to high) in quarter milliseconds, cumulative, so that any window is
/// one subtraction. Causal second-order Butterworth high-pass and low-pass a band.
class BandEnergy {
 public:
  static constexpr std::size_t kBands = 7;
  static constexpr std::array<double, kBands + 1> kEdgesHz{20, 100, 250, 600, 1500, 4000, 9000, 18'000};
  static constexpr double kStepsPerMs = 4;

  /// `rate` in Hz; bands above it stay empty. Progress goes from `from` to `to`.
  BandEnergy(std::span<const float> samples, int rate, Progress& progress, double from, double to);

  std::int64_t steps() const { return static_cast<std::int64_t>(sums_.size()) - 1; }
  /// Mean square between two places in steps, cut to the recording.
  double mean(std::size_t band, std::int64_t from, std::int64_t to) const;
  /// What comes in the 10 ms from a step on over the 10 ms before, in all bands, against the mean power of it all, dB.
  /// A band's drums bring -12 dB and more in the middle of their strokes, bleed 30 dB down under -20.
  double addedDb(std::int64_t step) const;
  /// What is loud in a band: the 99th percentile of its 10 ms means; with the floor under which nothing counts.
  double loud(std::size_t band) const { return loud_[band]; }
  double floor(std::size_t band) const { return loud_[band] * kFloorShare + kLeast; }
  /// The step that begins nearest to a frame, and back.
  std::int64_t stepOf(std::int64_t frame) const;
  std::int64_t frameOf(std::int64_t step) const;
  /// The same in seconds.
  double secondsOf(std::int64_t step) const { return hop_.seconds(step); }
  std::int64_t stepAt(double seconds) const { return hop_.steps(seconds); }

 private:
  static constexpr double kFloorShare = 1e-5;
  static constexpr double kLeast = 1e-14;
  using Sums = std::array<double, kBands>;

  Hop hop_;
  std::vector<Sums> sums_;
  std::array<double, kBands> loud_{};
};

}  // namespace ochron

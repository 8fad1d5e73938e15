#pragma once

#include "play/audio_source.h"
#include "render/speed_head.h"

namespace ochron {

/// Sound at another rate than it is made at, for a device that does not run at the song's. Allocates in the constructor
/// only.
class RateConverter : public AudioSource, private SongStream {
 public:
  /// Rates in Hz, of the source and of the device; at most kMostRatio to one.
  RateConverter(AudioSource& source, int from, int to);
  void process(std::span<float> left, std::span<float> right) noexcept override;

  static constexpr double kMostRatio = SpeedHead::kMostTimes;

 private:
  void read(std::span<float> left, std::span<float> right) noexcept override { source_.process(left, right); }
  double speed() const noexcept override { return ratio_; }

  AudioSource& source_;
  const double ratio_;
  SpeedHead head_;
};

}  // namespace ochron

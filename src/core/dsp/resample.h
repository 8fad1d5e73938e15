#pragma once

#include <memory>
#include <span>
#include <vector>

#include "base/result.h"

namespace ochron {

/// Streaming sample-rate conversion of interleaved audio (soxr, very high quality: pass band to 0.95 of Nyquist, stop
/// band below -170 dB). Delay is compensated: output frame n belongs to input time n * in / out.
class Resampler {
 public:
  static Result<Resampler> make(double inRate, double outRate, int channels);
  ~Resampler();
  Resampler(Resampler&&) noexcept;
  Resampler& operator=(Resampler&&) noexcept;

  /// Appends what comes out for `in` (whole frames, interleaved) to `out`.
  void push(std::span<const float> in, std::vector<float>& out);
  /// Appends what is left at the end of the input.
  void finish(std::vector<float>& out);

 private:
  Resampler() = default;
  struct Closer {
    void operator()(void* handle) const;
  };
  std::unique_ptr<void, Closer> handle_;
  int channels_ = 1;
  double ratio_ = 1;
};

}  // namespace ochron

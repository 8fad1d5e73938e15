#pragma once

#include <complex>
#include <memory>
#include <span>

namespace ochron {

/// Real FFT of a fixed size (FFTW). Not thread-safe: one object per thread.
class RealFft {
 public:
  explicit RealFft(int size);
  ~RealFft();
  RealFft(RealFft&&) noexcept;
  RealFft& operator=(RealFft&&) noexcept;

  int size() const;
  /// `size()` samples in, to be filled before forward().
  std::span<float> time();
  /// `size() / 2 + 1` bins, unnormalised.
  std::span<std::complex<float>> bins();
  void forward();
  /// Leaves `size()` times the signal in time(); destroys bins().
  void inverse();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron

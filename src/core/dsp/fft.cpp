#include "dsp/fft.h"

#include <fftw3.h>

#include <mutex>

namespace ochron {
namespace {
// FFTW's planner is not re-entrant; everything else in it is.
std::mutex& plannerMutex() {
  static std::mutex m;
  return m;
}
}  // namespace

struct RealFft::State {
  int size = 0;
  float* time = nullptr;
  fftwf_complex* bins = nullptr;
  fftwf_plan forward = nullptr;
  fftwf_plan inverse = nullptr;
};

RealFft::RealFft(int size) : state_(std::make_unique<State>()) {
  const std::scoped_lock lock(plannerMutex());
  state_->size = size;
  state_->time = fftwf_alloc_real(static_cast<std::size_t>(size));
  state_->bins = fftwf_alloc_complex(static_cast<std::size_t>(size) / 2 + 1);
  state_->forward = fftwf_plan_dft_r2c_1d(size, state_->time, state_->bins, FFTW_ESTIMATE);
  state_->inverse = fftwf_plan_dft_c2r_1d(size, state_->bins, state_->time, FFTW_ESTIMATE);
  for (int i = 0; i < size; ++i) state_->time[i] = 0;
}

RealFft::~RealFft() {
  if (!state_) return;
  const std::scoped_lock lock(plannerMutex());
  fftwf_destroy_plan(state_->forward);
  fftwf_destroy_plan(state_->inverse);
  fftwf_free(state_->time);
  fftwf_free(state_->bins);
}

RealFft::RealFft(RealFft&&) noexcept = default;
RealFft& RealFft::operator=(RealFft&&) noexcept = default;

int RealFft::size() const { return state_->size; }
std::span<float> RealFft::time() { return {state_->time, static_cast<std::size_t>(state_->size)}; }
std::span<std::complex<float>> RealFft::bins() {
  return {reinterpret_cast<std::complex<float>*>(state_->bins), static_cast<std::size_t>(state_->size / 2 + 1)};
}
void RealFft::forward() { fftwf_execute(state_->forward); }
void RealFft::inverse() { fftwf_execute(state_->inverse); }

}  // namespace ochron

#include "dsp/fft.h"

#include <fftw3.h>

#include <map>
#include <mutex>

namespace ochron {
namespace {

struct Plans {
  fftwf_plan forward = nullptr;
  fftwf_plan inverse = nullptr;
};

/// The plans of a size, made once and kept: they work on any arrays that FFTW itself has aligned. Its planner is not
/// re-entrant; everything else in it is. Never freed: a thread that still works when the program ends may use them.
Plans plansFor(int size, float* time, fftwf_complex* bins) {
  static std::mutex planner;
  static auto& made = *new std::map<int, Plans>;
  const std::scoped_lock lock(planner);
  auto& plans = made[size];
  if (plans.forward == nullptr)
    plans = {fftwf_plan_dft_r2c_1d(size, time, bins, FFTW_ESTIMATE),
             fftwf_plan_dft_c2r_1d(size, bins, time, FFTW_ESTIMATE)};
  return plans;
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
  state_->size = size;
  state_->time = fftwf_alloc_real(static_cast<std::size_t>(size));
  state_->bins = fftwf_alloc_complex(static_cast<std::size_t>(size) / 2 + 1);
  const auto plans = plansFor(size, state_->time, state_->bins);
  state_->forward = plans.forward;
  state_->inverse = plans.inverse;
  for (int i = 0; i < size; ++i) state_->time[i] = 0;
}

RealFft::~RealFft() {
  if (!state_) return;
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
void RealFft::forward() { fftwf_execute_dft_r2c(state_->forward, state_->time, state_->bins); }
void RealFft::inverse() { fftwf_execute_dft_c2r(state_->inverse, state_->bins, state_->time); }

}  // namespace ochron

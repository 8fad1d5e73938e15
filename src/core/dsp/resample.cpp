#include "dsp/resample.h"

#include <soxr.h>

#include <cmath>

namespace ochron {

void Resampler::Closer::operator()(void* handle) const { soxr_delete(static_cast<soxr_t>(handle)); }
Resampler::~Resampler() = default;
Resampler::Resampler(Resampler&&) noexcept = default;
Resampler& Resampler::operator=(Resampler&&) noexcept = default;

Result<Resampler> Resampler::make(double inRate, double outRate, int channels) {
  Resampler r;
  soxr_error_t error = nullptr;
  const auto io = soxr_io_spec(SOXR_FLOAT32_I, SOXR_FLOAT32_I);
  const auto quality = soxr_quality_spec(SOXR_VHQ, 0);
  r.handle_.reset(soxr_create(inRate, outRate, static_cast<unsigned>(channels), &error, &io, &quality, nullptr));
  if (error) return fail(ErrorKind::badInput, "This sample rate cannot be converted.", error);
  r.channels_ = channels;
  r.ratio_ = outRate / inRate;
  return r;
}

void Resampler::push(std::span<const float> in, std::vector<float>& out) {
  const auto channels = static_cast<std::size_t>(channels_);
  std::size_t frames = in.size() / channels;
  const float* from = in.data();
  while (frames > 0) {
    const auto room = static_cast<std::size_t>(std::ceil(static_cast<double>(frames) * ratio_)) + 64;
    const auto old = out.size();
    out.resize(old + room * channels);
    std::size_t used = 0;
    std::size_t made = 0;
    soxr_process(static_cast<soxr_t>(handle_.get()), from, frames, &used, out.data() + old, room, &made);
    out.resize(old + made * channels);
    from += used * channels;
    frames -= used;
  }
}

void Resampler::finish(std::vector<float>& out) {
  const auto channels = static_cast<std::size_t>(channels_);
  for (;;) {
    const auto old = out.size();
    out.resize(old + 4096 * channels);
    std::size_t made = 0;
    soxr_process(static_cast<soxr_t>(handle_.get()), nullptr, 0, nullptr, out.data() + old, 4096, &made);
    out.resize(old + made * channels);
    if (made == 0) return;
  }
}

}  // namespace ochron

#include "dsp/listening.h"

#include <cmath>

#include "dsp/resample.h"

namespace ochron {

Result<Listening> Listening::to(const Samples& samples, int rate) {
  Listening out;
  std::vector<float> room;
  const auto recorded = samples.in(room);
  if (rate == kListeningRate) {
    if (room.empty())
      out.lies_ = recorded;
    else
      out.own_ = std::move(room);
    return out;
  }
  auto resampler = Resampler::make(rate, kListeningRate, 1);
  if (!resampler) return tl::unexpected(resampler.error());
  out.own_.reserve(static_cast<std::size_t>(std::ceil(static_cast<double>(recorded.size()) * kListeningRate / rate)) +
                   4096);
  resampler->push(recorded, out.own_);
  resampler->finish(out.own_);
  return out;
}

}  // namespace ochron

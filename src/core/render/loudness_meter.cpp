#include "render/loudness_meter.h"

#include <ebur128.h>

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

constexpr double kEverySeconds = 0.1;
constexpr double kLeastLufs = -70;  // the measure's own absolute gate
constexpr double kMomentarySeconds = 0.4;
constexpr double kShortSeconds = 3;

std::optional<double> measured(double lufs) {
  return std::isfinite(lufs) && lufs > kLeastLufs ? std::optional(lufs) : std::nullopt;
}

void raise(std::optional<double>& to, const std::optional<double>& value) {
  if (value && (!to || *value > *to)) to = value;
}

}  // namespace

struct LoudnessMeter::State {
  ebur128_state* meter = nullptr;
  std::size_t channels = 2;
  std::int64_t every = 4800;  // frames
  std::int64_t done = 0;
  int rate = 48'000;
  LoudnessReport report;

  ~State() {
    if (meter) ebur128_destroy(&meter);
  }
};

LoudnessMeter::LoudnessMeter(int rate, int channels) : state_(std::make_unique<State>()) {
  state_->meter = ebur128_init(static_cast<unsigned>(channels), static_cast<unsigned long>(rate),
                               EBUR128_MODE_I | EBUR128_MODE_LRA | EBUR128_MODE_TRUE_PEAK | EBUR128_MODE_HISTOGRAM);
  state_->channels = static_cast<std::size_t>(channels);
  state_->every = std::max<std::int64_t>(1, std::llround(kEverySeconds * rate));
  state_->rate = rate;
}
LoudnessMeter::~LoudnessMeter() = default;
LoudnessMeter::LoudnessMeter(LoudnessMeter&&) noexcept = default;

void LoudnessMeter::add(std::span<const float> interleaved) {
  auto& s = *state_;
  if (!s.meter) return;
  auto frames = static_cast<std::int64_t>(interleaved.size() / s.channels);
  const float* at = interleaved.data();
  while (frames > 0) {
    const auto n = std::min(frames, s.every - s.done % s.every);
    if (ebur128_add_frames_float(s.meter, at, static_cast<std::size_t>(n)) != EBUR128_SUCCESS) return;
    at += static_cast<std::size_t>(n) * s.channels;
    frames -= n;
    s.done += n;
    if (s.done % s.every != 0) continue;
    LoudnessReport::Point p{static_cast<double>(s.done) / s.rate, {}, {}};
    double lufs = 0;
    if (p.seconds >= kMomentarySeconds && ebur128_loudness_momentary(s.meter, &lufs) == EBUR128_SUCCESS)
      p.momentary = measured(lufs);
    if (p.seconds >= kShortSeconds && ebur128_loudness_shortterm(s.meter, &lufs) == EBUR128_SUCCESS)
      p.shortTerm = measured(lufs);
    raise(s.report.momentary, p.momentary);
    raise(s.report.shortTerm, p.shortTerm);
    s.report.curve.push_back(p);
  }
}

LoudnessReport LoudnessMeter::report() const {
  auto out = state_->report;
  auto* meter = state_->meter;
  if (!meter) return out;
  double value = 0;
  if (ebur128_loudness_global(meter, &value) == EBUR128_SUCCESS) out.integrated = measured(value);
  if (out.integrated && ebur128_loudness_range(meter, &value) == EBUR128_SUCCESS) out.range = value;
  double peak = 0;
  for (unsigned c = 0; c < state_->channels; ++c)
    if (ebur128_true_peak(meter, c, &value) == EBUR128_SUCCESS) peak = std::max(peak, value);
  if (peak > 0) out.truePeak = 20 * std::log10(peak);
  return out;
}

}  // namespace ochron

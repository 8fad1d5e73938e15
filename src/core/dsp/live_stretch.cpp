#include "dsp/live_stretch.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <array>
#include <vector>

namespace ochron {

using RubberBand::RubberBandStretcher;

struct LiveStretch::State {
  State(int rate, double longest)
      : engine(static_cast<std::size_t>(rate), 2,
               RubberBandStretcher::OptionProcessRealTime | RubberBandStretcher::OptionEngineFaster |
                   RubberBandStretcher::OptionThreadingNever | RubberBandStretcher::OptionChannelsTogether,
               longest, 1.0) {
    engine.setDebugLevel(0);
    engine.setMaxProcessSize(kBlock);
  }
  RubberBandStretcher engine;
  double ratio = 1;
  std::size_t toDrop = 0;  ///< of what comes out first: the engine's delay
  bool begun = false;
  std::array<float, kBlock> silence{};
  std::array<std::array<float, kBlock>, 2> dropped{};
};

LiveStretch::LiveStretch() = default;
LiveStretch::~LiveStretch() = default;

void LiveStretch::prepare(int rate, double slowest, double fastest) {
  state_ = std::make_unique<State>(rate, 1 / slowest);
  // Its buffers grow to what the extremes need; so none grows later.
  for (const double speed : {slowest, fastest, 1.0}) {
    reset();
    for (int i = 0; i < 64; ++i) {
      put(state_->silence, state_->silence, speed);
      while (const auto n = std::min(ready(), kBlock))
        take(std::span(state_->dropped[0]).first(n), std::span(state_->dropped[1]).first(n));
    }
  }
  reset();
}

void LiveStretch::reset() noexcept {
  state_->engine.reset();
  state_->toDrop = 0;
  state_->begun = false;
}

std::size_t LiveStretch::ready() const noexcept {
  return static_cast<std::size_t>(std::max(0, state_->engine.available()));
}

void LiveStretch::put(std::span<const float> left, std::span<const float> right, double speed) noexcept {
  auto& s = *state_;
  if (1 / speed != s.ratio || !s.begun) {
    s.ratio = 1 / speed;
    s.engine.setTimeRatio(s.ratio);
  }
  if (!s.begun) {
    s.begun = true;
    s.toDrop = s.engine.getStartDelay();
    const std::array<const float*, 2> pad{s.silence.data(), s.silence.data()};
    for (auto more = s.engine.getPreferredStartPad(); more > 0;) {
      const auto n = std::min(more, kBlock);
      s.engine.process(pad.data(), n, false);
      more -= n;
    }
  }
  const std::array<const float*, 2> in{left.data(), right.data()};
  s.engine.process(in.data(), kBlock, false);
  while (s.toDrop > 0 && ready() > 0) {
    const std::array<float*, 2> out{s.dropped[0].data(), s.dropped[1].data()};
    s.toDrop -= s.engine.retrieve(out.data(), std::min({s.toDrop, ready(), kBlock}));
  }
}

void LiveStretch::take(std::span<float> left, std::span<float> right) noexcept {
  const std::array<float*, 2> out{left.data(), right.data()};
  state_->engine.retrieve(out.data(), left.size());
}

}  // namespace ochron

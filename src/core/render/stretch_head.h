#pragma once

#include <array>
#include <vector>

#include "dsp/live_stretch.h"
#include "render/chain.h"

namespace ochron {

/// Plays a stream of song frames at changing speed while its pitch stays. Two channels; for the ear: exports are made
/// at full quality (StreamStretch).
class StretchHead : public ChainNode {
 public:
  void prepare(int rate) override;
  void reset() noexcept override;
  /// None: it reads ahead as far as it needs.
  Frames latency() const noexcept override { return {}; }
  Frames ahead() const noexcept override;
  void process(std::span<float> left, std::span<float> right, SongStream& input) noexcept override;

 private:
  LiveStretch stretch_;
  std::array<std::array<float, LiveStretch::kBlock>, 2> read_{};
  double ahead_ = 0;
  double speed_ = 1;
};

}  // namespace ochron

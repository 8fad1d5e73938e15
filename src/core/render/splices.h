#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// A jump from one place of the sound to another, the same for all channels: at `at` what goes on from there is
/// crossfaded into what goes on from `to`.
struct Splice {
  std::int64_t at = 0;    ///< frame from which the crossfade runs
  std::int64_t to = 0;    ///< frame that takes its place
  std::int64_t fade = 0;  ///< frames
};

struct SpliceSettings {
  int rate = 48'000;
  std::int64_t first = 0;  ///< nothing before this frame is repeated, left out or faded
  std::int64_t last = 0;   ///< nor after this one
};

/// Where to jump so that the sound becomes `change` frames longer (or shorter): few jumps, each where all channels
/// together are alike and quiet and where no stroke would be heard twice or not at all (after the synchronous
/// overlap-add of Roucos & Wilgus 1985, one lag for all channels). Empty when there is no room; in order.
std::vector<Splice> splicesFor(const std::vector<std::span<const float>>& channels, std::int64_t change,
                               const SpliceSettings& settings);

/// One channel along these jumps; `joined` crossfades what goes on (first) into what takes its place (second).
std::vector<float> along(std::span<const float> channel, const std::vector<Splice>& splices);

}  // namespace ochron

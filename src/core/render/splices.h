#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "base/units.h"
#include "dsp/stream_stretch.h"

namespace ochron {

/// A jump from one place of the sound to another, the same for all channels: at `at` what goes on from there is
/// crossfaded into what goes on from `to`.
struct Splice {
  std::int64_t at = 0;    ///< frame from which the crossfade runs
  std::int64_t to = 0;    ///< frame that takes its place
  std::int64_t fade = 0;  ///< frames
};

/// Sound that is looked through from end to end and once more near each jump.
struct SplicedSound {
  StreamSource source;
  std::size_t channels = 1;
  std::int64_t frames = 0;
  int rate = 48'000;
};

/// Where to jump so that the sound becomes `change` frames longer (or shorter): few jumps, each where all channels
/// together are alike and quiet and where no stroke would be heard twice or not at all (after the synchronous
/// overlap-add of Roucos & Wilgus 1985, one lag for all channels); those of a long sound lie near the middle of what
/// each makes up for. Nothing outside of `within` is repeated, left out or faded. Empty when there is no room; in
/// order. None when `going`, which is asked on the way, ends it.
std::optional<std::vector<Splice>> splicesFor(const SplicedSound& sound, std::int64_t change, FrameRange within,
                                              const std::function<bool()>& going);

/// The sound along these jumps, in order; false when the sink has ended it.
bool along(const SplicedSound& sound, const std::vector<Splice>& splices, const StreamSink& to);

}  // namespace ochron

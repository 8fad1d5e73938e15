#pragma once

#include <cstddef>
#include <functional>
#include <map>
#include <span>
#include <vector>

#include "base/progress.h"
#include "dsp/phase_vocoder.h"

namespace ochron {

/// Takes what was made, in order; false ends it. Without frames it is only asked whether to go on.
using StreamSink = std::function<bool(ChannelSpans channels)>;

struct StreamLength {
  std::size_t frames = 0;  ///< of the source, which is read a little beyond its end
  std::size_t made = 0;    ///< of what becomes of it, to the frame
  /// Which frame lands on which, both rising; none: the same ratio throughout.
  std::map<std::size_t, std::size_t> keys = {};
  std::vector<FrameRange> fresh = {};  ///< of what is made: here it has the recording's own phases
};

/// Changes the length of any length of sound without its pitch, at full quality (PhaseVocoder), block by block, so that
/// memory stays small. Its channels stay in phase. False when it was cancelled or the sink has ended it.
bool streamStretched(int rate, std::size_t channels, const StreamLength& length, const StreamSource& source,
                     const StreamSink& sink, Progress& progress);

/// The same of sound at hand: silent outside of it.
std::vector<std::vector<float>> soundStretched(int rate, const std::vector<std::span<const float>>& in,
                                               const StreamLength& length);

}  // namespace ochron

#pragma once

#include <cstddef>
#include <functional>
#include <map>
#include <span>

#include "base/progress.h"

namespace ochron {

/// Some channels of one length.
using ChannelSpans = std::span<const std::span<float>>;
/// A source of sound that can be read twice: adds to all channels, which are silent before, from a frame on.
using StreamSource = std::function<void(std::size_t from, ChannelSpans channels)>;
/// Takes what was made, in order; false ends it.
using StreamSink = std::function<bool(ChannelSpans channels)>;

struct StreamLength {
  std::size_t frames = 0;  ///< of the source, which is read a little beyond its end
  std::size_t made = 0;    ///< of what becomes of it, to the frame
  std::map<std::size_t, std::size_t>
      keys;  ///< which frame lands on which, both rising; none: the same ratio throughout
};

/// Changes the length of any length of sound without its pitch, at full quality (Rubber Band, its finer engine,
/// offline): reads the source twice, block by block, so that memory stays small. Its channels go through one engine, so
/// that their phases stay in step. False when it was cancelled or the sink has ended it.
bool streamStretched(int rate, std::size_t channels, const StreamLength& length, const StreamSource& source,
                     const StreamSink& sink, Progress& progress);

}  // namespace ochron

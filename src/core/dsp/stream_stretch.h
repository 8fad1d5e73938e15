#pragma once

#include <cstddef>
#include <functional>
#include <map>
#include <memory>
#include <span>

#include "base/progress.h"

namespace ochron {

/// A source of sound that can be read twice: fills both sides (silent before) from a frame on.
using StreamSource = std::function<void(std::size_t from, std::span<float> left, std::span<float> right)>;
/// Takes what was made, in order; false ends it.
using StreamSink = std::function<bool(std::span<const float> left, std::span<const float> right)>;

/// Changes the length of any length of stereo sound without its pitch, at full quality (Rubber Band, its finer engine,
/// offline): reads the source twice, block by block, so that memory stays small. `frames` of the source become exactly
/// `made`; `keys` says which frame lands on which, both rising; none: the same ratio throughout. The source is read a
/// little beyond its end. False when it was cancelled or the sink has ended it.
bool streamStretched(int rate, std::size_t frames, std::size_t made, const std::map<std::size_t, std::size_t>& keys,
                     const StreamSource& source, const StreamSink& sink, Progress& progress);

}  // namespace ochron

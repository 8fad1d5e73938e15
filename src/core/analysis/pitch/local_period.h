#pragma once

#include <cstdint>
#include <optional>
#include <span>

namespace ochron {

/// The period of a stretch that has one, in samples of `rate` Hz, or a multiple of it: the shortest lag of 40 to
/// 1400 Hz after which it is nearly as like itself as after any. None where it is like itself after no lag (chords,
/// noise, a change of pitch within), or is silent.
std::optional<double> localPeriod(std::span<const float> stretch, int rate);

}  // namespace ochron

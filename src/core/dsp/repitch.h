#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace ochron {

/// Sound at a pitch that changes: stretched, each place by its ratio, and read at that speed, formants and all.
/// `at`: where in the stretched sound each frame of the result lies, rising, from 0, and one more for the end of the
/// last. The result spans the whole of `in`; of it come `count` frames from `first` on.
/// prepareSpeedReading() was called.
std::vector<std::vector<float>> repitched(int rate, const std::vector<std::span<const float>>& in,
                                          const std::vector<double>& at, std::size_t first, std::size_t count);

}  // namespace ochron

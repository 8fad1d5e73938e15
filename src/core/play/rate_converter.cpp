#include "play/rate_converter.h"

#include <algorithm>

namespace ochron {

RateConverter::RateConverter(AudioSource& source, int from, int to)
    : source_(source), ratio_(std::min(kMostRatio, static_cast<double>(from) / to)), head_(ratio_) {
  head_.prepare(to);
}

void RateConverter::process(std::span<float> left, std::span<float> right) noexcept {
  std::fill(left.begin(), left.end(), 0.0F);
  std::fill(right.begin(), right.end(), 0.0F);
  head_.process(left, right, *this);
}

}  // namespace ochron

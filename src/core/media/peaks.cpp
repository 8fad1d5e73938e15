#include "media/peaks.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {
std::int16_t toStep(float v) { return static_cast<std::int16_t>(std::lround(std::clamp(v, -1.0f, 1.0f) * 32767.0f)); }
}  // namespace

std::size_t peakCount(std::int64_t frames, int level) {
  std::int64_t bin = kPeakBaseFrames;
  for (int i = 0; i < level; ++i) bin *= kPeakLevelFactor;
  return static_cast<std::size_t>((frames + bin - 1) / bin);
}

void PeakBuilder::add(std::span<const float> samples) {
  std::size_t i = 0;
  while (i < samples.size()) {
    const auto n = std::min<std::size_t>(samples.size() - i, static_cast<std::size_t>(kPeakBaseFrames - count_));
    float low = count_ ? low_ : samples[i];
    float high = count_ ? high_ : samples[i];
    float squares = count_ ? squares_ : 0;
    for (std::size_t k = i; k < i + n; ++k) {
      const float s = samples[k];
      low = s < low ? s : low;
      high = s > high ? s : high;
      squares += s * s;
    }
    low_ = low;
    high_ = high;
    squares_ = squares;
    count_ += static_cast<int>(n);
    i += n;
    if (count_ == kPeakBaseFrames) close();
  }
}

void PeakBuilder::close() {
  base_.push_back({toStep(low_), toStep(high_), toStep(std::sqrt(squares_ / static_cast<float>(count_)))});
  count_ = 0;
}

std::vector<std::vector<Peak>> PeakBuilder::finish() {
  if (count_ > 0) close();
  std::vector<std::vector<Peak>> levels{std::move(base_)};
  for (int level = 1; level < kPeakLevels; ++level) {
    const auto& fine = levels.back();
    std::vector<Peak> coarse((fine.size() + kPeakLevelFactor - 1) / kPeakLevelFactor);
    for (std::size_t i = 0; i < coarse.size(); ++i) {
      const auto first = i * kPeakLevelFactor;
      const auto last = std::min(first + kPeakLevelFactor, fine.size());
      Peak p = fine[first];
      double squares = 0;
      for (auto k = first; k < last; ++k) {
        p.low = std::min(p.low, fine[k].low);
        p.high = std::max(p.high, fine[k].high);
        squares += static_cast<double>(fine[k].rms) * fine[k].rms;
      }
      p.rms = static_cast<std::int16_t>(std::lround(std::sqrt(squares / static_cast<double>(last - first))));
      coarse[i] = p;
    }
    levels.push_back(std::move(coarse));
  }
  return levels;
}

int PeakPyramid::levelFor(double framesPerPixel) const {
  int level = -1;
  double bin = kPeakBaseFrames;
  while (level + 1 < static_cast<int>(levels.size()) && bin <= framesPerPixel) {
    ++level;
    bin *= kPeakLevelFactor;
  }
  return level;
}

}  // namespace ochron

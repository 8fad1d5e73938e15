#include "media/peaks.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ochron {
namespace {
struct Range {
  float low;
  float high;
  float squares;
};

/// Of at least one sample, in lanes that the compiler works on at once.
Range rangeOf(std::span<const float> x) {
  constexpr std::size_t kLanes = 8;
  std::array<float, kLanes> low;
  std::array<float, kLanes> high;
  std::array<float, kLanes> squares{};
  low.fill(x[0]);
  high.fill(x[0]);
  std::size_t i = 0;
  for (; i + kLanes <= x.size(); i += kLanes)
    for (std::size_t k = 0; k < kLanes; ++k) {
      const float s = x[i + k];
      low[k] = s < low[k] ? s : low[k];
      high[k] = s > high[k] ? s : high[k];
      squares[k] += s * s;
    }
  for (std::size_t k = 0; i < x.size(); ++i, ++k) {
    low[k] = std::min(low[k], x[i]);
    high[k] = std::max(high[k], x[i]);
    squares[k] += x[i] * x[i];
  }
  Range out{low[0], high[0], 0};
  for (std::size_t k = 0; k < kLanes; ++k) {
    out.low = std::min(out.low, low[k]);
    out.high = std::max(out.high, high[k]);
    out.squares += squares[k];
  }
  return out;
}

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
    const auto part = rangeOf(samples.subspan(i, n));
    low_ = count_ ? std::min(low_, part.low) : part.low;
    high_ = count_ ? std::max(high_, part.high) : part.high;
    squares_ = count_ ? squares_ + part.squares : part.squares;
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

float PeakPyramid::loudest(std::int64_t from, std::int64_t to) const {
  if (levels.empty() || from >= to) return 0;
  const auto bins = levels.front();
  const auto count = std::ssize(bins);
  const auto first = std::clamp<std::int64_t>(from / kPeakBaseFrames, 0, count);
  const auto last = std::clamp<std::int64_t>((to + kPeakBaseFrames - 1) / kPeakBaseFrames, first, count);
  int peak = 0;
  for (const auto& bin : bins.subspan(static_cast<std::size_t>(first), static_cast<std::size_t>(last - first)))
    peak = std::max({peak, -int{bin.low}, int{bin.high}});
  return static_cast<float>(peak) / 32767.0F;
}

}  // namespace ochron

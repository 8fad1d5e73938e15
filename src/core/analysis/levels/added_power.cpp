#include "analysis/levels/added_power.h"

#include <algorithm>

namespace ochron {
namespace {
constexpr std::int64_t kBeforeMs = 11;
constexpr std::int64_t kGapMs = 1;
constexpr std::int64_t kAfterMs = 20;
}  // namespace

AddedPower::AddedPower(const BandEnergy& energy, int rate, Frames offset) : rate_(rate), offset_(offset) {
  constexpr auto kSteps = static_cast<std::int64_t>(BandEnergy::kStepsPerMs);
  ms_.resize(static_cast<std::size_t>((energy.steps() + kSteps - 1) / kSteps));
  for (std::size_t i = 0; i < ms_.size(); ++i)
    for (std::size_t b = 0; b < BandEnergy::kBands; ++b) {
      const auto from = static_cast<std::int64_t>(i) * kSteps;
      ms_[i][b] = static_cast<float>(energy.mean(b, from, from + kSteps));
    }
  for (std::size_t b = 0; b < BandEnergy::kBands; ++b) floor_[b] = energy.floor(b);
}

double AddedPower::mean(std::size_t band, std::int64_t from, std::int64_t to) const {
  double sum = 0;
  for (auto i = std::max<std::int64_t>(0, from); i < std::min(to, std::ssize(ms_)); ++i)
    sum += static_cast<double>(ms_[static_cast<std::size_t>(i)][band]);
  return sum / static_cast<double>(to - from);
}

AddedPower::Bands AddedPower::at(Frames take) const {
  const auto ms = static_cast<std::int64_t>(msFromFrames(take - offset_, rate_));
  Bands out{};
  for (std::size_t b = 0; b < out.size(); ++b)
    out[b] = std::max(0.0, mean(b, ms, ms + kAfterMs) - mean(b, ms - kBeforeMs, ms - kGapMs));
  return out;
}

AddedPower::Bands AddedPower::before(Frames take) const {
  const auto ms = static_cast<std::int64_t>(msFromFrames(take - offset_, rate_));
  Bands out{};
  for (std::size_t b = 0; b < out.size(); ++b) out[b] = mean(b, ms - kBeforeMs, ms - kGapMs);
  return out;
}

}  // namespace ochron

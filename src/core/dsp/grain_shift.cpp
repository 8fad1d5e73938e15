#include "dsp/grain_shift.h"

#include <algorithm>
#include <cmath>

#include "dsp/varispeed.h"

namespace ochron {
namespace {

constexpr double kGrainSeconds = 0.02;
constexpr double kSearchSeconds = 0.006;
constexpr std::int64_t kCoarse = 4;  // frames between two tries, and between two samples that are compared

const double kFastest = std::exp2(GrainShift::kMostCents / 1200);

}  // namespace

GrainShift::GrainShift(int rate)
    : grain_(static_cast<std::int64_t>(kGrainSeconds * rate)),
      join_(grain_ / 2),
      search_(static_cast<std::int64_t>(kSearchSeconds * rate)) {
  prepareSpeedReading();
  const auto most = static_cast<std::size_t>(2 * search_ + 2 * (speedReach(kFastest) + 2) +
                                             std::llround(static_cast<double>(grain_ + join_) * kFastest) + 8);
  for (auto& s : source_) s.resize(most);
  mono_.resize(most);
  for (auto& s : out_) s.resize(static_cast<std::size_t>(grain_ + join_));
  for (auto& s : tail_) s.resize(static_cast<std::size_t>(join_));
  monoTail_.resize(static_cast<std::size_t>(join_));
}

void GrainShift::restart() noexcept {
  fresh_ = true;
  ownSound_ = true;
  done_ = grain_;
}

void GrainShift::setCents(double cents) noexcept { cents_ = std::clamp(cents, -kMostCents, kMostCents); }

bool GrainShift::plain() const noexcept { return cents_ == 0 && ownSound_ && (fresh_ || done_ >= join_); }

/// The offset within the search at which the source, read at a speed, goes on most like the tail.
std::int64_t GrainShift::mostAlike(std::int64_t first, double speed) const noexcept {
  const auto likeness = [&](std::int64_t offset, std::int64_t step) {
    double product = 0;
    double power = 1e-12;
    for (std::int64_t k = 0; k < join_; k += step) {
      const auto at =
          static_cast<std::size_t>(std::llround(static_cast<double>(first + offset) + static_cast<double>(k) * speed));
      const double x = static_cast<double>(mono_[at]);
      product += x * static_cast<double>(monoTail_[static_cast<std::size_t>(k)]);
      power += x * x;
    }
    return product / std::sqrt(power);
  };
  std::int64_t best = 0;
  double most = likeness(0, kCoarse);
  for (auto d = -search_; d <= search_; d += kCoarse)
    if (const double l = likeness(d, kCoarse); l > most) {
      most = l;
      best = d;
    }
  const auto around = best;
  most = likeness(best, 2);
  for (auto d = std::max(-search_, around - kCoarse); d <= std::min(search_, around + kCoarse); ++d)
    if (const double l = likeness(d, 2); l > most) {
      most = l;
      best = d;
    }
  return best;
}

void GrainShift::beginGrain(std::int64_t at, Source& source) noexcept {
  const double speed = std::exp2(cents_ / 1200);
  const bool own = cents_ == 0;
  const auto margin = speedReach(speed) + 2;
  const auto length = grain_ + join_;
  const auto count = static_cast<std::size_t>(
      2 * search_ + 2 * margin + static_cast<std::int64_t>(std::ceil(static_cast<double>(length) * speed)));
  const auto left = std::span(source_[0]).first(count);
  const auto right = std::span(source_[1]).first(count);
  source.read(at - search_ - margin, left, right);
  const auto first = search_ + margin;  // of the source at `at`
  for (std::size_t side = 0; side < 2; ++side)
    for (std::int64_t k = 0; k < join_; ++k) {
      const auto i = static_cast<std::size_t>(k);
      tail_[side][i] = fresh_ ? source_[side][static_cast<std::size_t>(first + k)]
                              : out_[side][static_cast<std::size_t>(std::min(done_, grain_) + k)];
    }
  std::int64_t offset = 0;
  if (!own) {
    for (std::size_t i = 0; i < count; ++i) mono_[i] = left[i] + right[i];
    for (std::size_t i = 0; i < monoTail_.size(); ++i) monoTail_[i] = tail_[0][i] + tail_[1][i];
    offset = mostAlike(first, speed);
  }
  for (std::size_t side = 0; side < 2; ++side) {
    const SpeedSource from{source_[side].data(), 1, static_cast<std::int64_t>(count)};
    for (std::int64_t k = 0; k < length; ++k)
      out_[side][static_cast<std::size_t>(k)] =
          own ? source_[side][static_cast<std::size_t>(first + k)]
              : speedRead(from, static_cast<double>(first + offset) + static_cast<double>(k) * speed, speed);
    if (own && ownSound_) continue;  // it goes on as it was
    for (std::int64_t k = 0; k < join_; ++k) {
      const auto i = static_cast<std::size_t>(k);
      const float in = (static_cast<float>(k) + 0.5F) / static_cast<float>(join_);
      out_[side][i] = tail_[side][i] * (1 - in) + out_[side][i] * in;
    }
  }
  fresh_ = false;
  ownSound_ = own;
  done_ = 0;
}

void GrainShift::process(std::int64_t at, std::span<float> left, std::span<float> right, Source& source) noexcept {
  std::size_t put = 0;
  while (put < left.size()) {
    const auto place = at + static_cast<std::int64_t>(put);
    if (fresh_ || done_ >= grain_ || place != next_) beginGrain(place, source);
    const auto n = std::min(static_cast<std::int64_t>(left.size() - put), grain_ - done_);
    for (std::int64_t k = 0; k < n; ++k) {
      left[put + static_cast<std::size_t>(k)] = out_[0][static_cast<std::size_t>(done_ + k)];
      right[put + static_cast<std::size_t>(k)] = out_[1][static_cast<std::size_t>(done_ + k)];
    }
    done_ += n;
    put += static_cast<std::size_t>(n);
    next_ = place + n;
  }
}

}  // namespace ochron

#include "render/speed_head.h"

#include <algorithm>
#include <cmath>

#include "dsp/varispeed.h"

namespace ochron {
namespace {

constexpr std::size_t kCapacity = 4096;

}  // namespace

SpeedHead::SpeedHead(double fastest) : fastest_(std::min(fastest, kMostTimes)) {}

std::size_t SpeedHead::history() const noexcept { return static_cast<std::size_t>(speedReach(fastest_)); }

void SpeedHead::prepare(int) {
  prepareSpeedReading();
  for (auto& side : frames_) side.resize(kCapacity);
  speeds_.resize(kCapacity, 1.0f);
  reset();
}

void SpeedHead::reset() noexcept {
  filled_ = history();
  for (auto& side : frames_) std::fill_n(side.begin(), filled_, 0.0f);
  std::fill_n(speeds_.begin(), filled_, 1.0f);
  at_ = static_cast<double>(filled_);
  reading_ = false;
}

void SpeedHead::process(std::span<float> left, std::span<float> right, SongStream& input) noexcept {
  if (input.speed() == 0) {
    reading_ = false;
    return input.read(left, right);
  }
  if (!reading_) reset();
  reading_ = true;
  for (std::size_t i = 0; i < left.size(); ++i) {
    while (wants()) {
      const auto l = room(0);
      const auto r = room(1);
      const double speed = input.speed();
      input.read(l, r);
      took(speed);
    }
    step(left[i], right[i]);
  }
}

bool SpeedHead::wants() const noexcept {
  const auto now = static_cast<std::size_t>(at_);
  if (filled_ <= now) return true;
  return filled_ < now + static_cast<std::size_t>(speedReach(static_cast<double>(speeds_[now]))) + 1;
}

std::span<float> SpeedHead::room(std::size_t side) noexcept {
  if (side == 0 && filled_ + kChunk > kCapacity) {
    const auto drop = static_cast<std::size_t>(at_) - history();
    for (auto& f : frames_) std::copy(f.begin() + static_cast<std::ptrdiff_t>(drop), f.end(), f.begin());
    std::copy(speeds_.begin() + static_cast<std::ptrdiff_t>(drop), speeds_.end(), speeds_.begin());
    filled_ -= drop;
    at_ -= static_cast<double>(drop);
  }
  const auto out = std::span(frames_[side]).subspan(filled_, kChunk);
  std::fill(out.begin(), out.end(), 0.0f);
  return out;
}

void SpeedHead::took(double speed) noexcept {
  std::fill_n(speeds_.begin() + static_cast<std::ptrdiff_t>(filled_), kChunk, static_cast<float>(speed));
  filled_ += kChunk;
}

void SpeedHead::step(float& left, float& right) noexcept {
  const auto speed = static_cast<double>(speeds_[static_cast<std::size_t>(at_)]);
  const auto count = static_cast<std::int64_t>(filled_);
  left = speedRead({frames_[0].data(), 1, count}, at_, speed);
  right = speedRead({frames_[1].data(), 1, count}, at_, speed);
  at_ += speed;
}

}  // namespace ochron

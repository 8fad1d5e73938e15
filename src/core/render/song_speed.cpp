#include "render/song_speed.h"

#include <algorithm>
#include <cmath>

namespace ochron {

void SongSpeed::prepare(int rate) {
  tape_.prepare(rate);
  stretch_.prepare(rate);
}

void SongSpeed::reset() noexcept {
  tape_.reset();
  stretch_.reset();
}

Frames SongSpeed::ahead() const noexcept { return stretches_ ? stretch_.ahead() : tape_.ahead(); }

void SongSpeed::process(std::span<float> left, std::span<float> right, SongStream& input) noexcept {
  const bool stretches = input.speed() != 0 && input.keepsPitch();
  if (stretches != stretches_) reset();
  stretches_ = stretches;
  stretches ? stretch_.process(left, right, input) : tape_.process(left, right, input);
}

namespace {

constexpr std::int64_t kStep = 4096;
static_assert(kStep % static_cast<std::int64_t>(SpeedHead::kChunk) == 0);

}  // namespace

Frames PlayedTime::of(Frames frame) {
  const auto length = std::max<std::int64_t>(0, (frame - from_).value);
  if (speed_.empty()) return Frames{length};
  const auto add = [&](std::int64_t first, std::int64_t last, double sum) {
    constexpr auto kChunk = static_cast<std::int64_t>(SpeedHead::kChunk);
    for (auto at = first; at < last; at += kChunk)
      sum += static_cast<double>(std::min(kChunk, last - at)) * 100 / valueAt(speed_, from_ + Frames{at}, 100);
    return sum;
  };
  const auto whole = static_cast<std::size_t>(length / kStep);
  while (sums_.size() <= whole) {
    const auto first = (std::ssize(sums_) - 1) * kStep;
    sums_.push_back(add(first, first + kStep, sums_.back()));
  }
  return Frames{std::llround(add(static_cast<std::int64_t>(whole) * kStep, length, sums_[whole]))};
}

std::map<std::size_t, std::size_t> PlayedTime::keys(Frames length) {
  std::map<std::size_t, std::size_t> out;
  for (auto at = kStep; at < length.value; at += kStep)
    out.emplace_hint(out.end(), static_cast<std::size_t>(at), static_cast<std::size_t>(of(from_ + Frames{at}).value));
  return out;
}

}  // namespace ochron

#include "dsp/sliding_source.h"

#include <algorithm>
#include <utility>

namespace ochron {

constexpr std::int64_t kReadAtOnce = 4096;

SlidingSource::SlidingSource(std::size_t channels, std::size_t kept, StreamSource source)
    : kept_(kept), source_(std::move(source)), sums_(channels) {}

void SlidingSource::readUpTo(std::int64_t end) {
  auto have = start_ + std::ssize(sums_.front());
  std::vector<std::span<float>> spans(sums_.size());
  while (have < end) {
    for (std::size_t c = 0; c < sums_.size(); ++c) {
      auto& s = sums_[c];
      // What is too old goes in bulk, so that little is moved.
      if (s.size() > 2 * kept_) s.erase(s.begin(), s.end() - static_cast<std::ptrdiff_t>(kept_));
      s.resize(s.size() + kReadAtOnce, 0.0F);
      spans[c] = std::span(s).last(kReadAtOnce);
    }
    start_ = have + kReadAtOnce - std::ssize(sums_.front());
    source_(static_cast<std::size_t>(have), spans);
    have += kReadAtOnce;
  }
}

void SlidingSource::read(std::size_t channel, std::int64_t from, std::span<float> to) {
  readUpTo(from + std::ssize(to));
  const auto& x = sums_[channel];
  const auto silent = std::clamp<std::int64_t>(start_ - from, 0, std::ssize(to));
  std::fill_n(to.begin(), silent, 0.0F);
  if (silent == std::ssize(to)) return;
  const auto first = x.begin() + (from + silent - start_);
  std::copy(first, first + (std::ssize(to) - silent), to.begin() + silent);
}

}  // namespace ochron

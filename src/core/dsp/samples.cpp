#include "dsp/samples.h"

#include <algorithm>
#include <bit>
#include <cstdlib>

#include "dsp/patched_samples.h"

namespace ochron {

bool allFinite(std::span<const float> samples) noexcept {
  constexpr std::uint32_t kExponent = 0x7f80'0000;  // all of it set: infinite or no number (IEEE 754 binary32)
  std::uint32_t bad = 0;
  for (const float s : samples) bad |= (std::bit_cast<std::uint32_t>(s) & kExponent) == kExponent ? 1U : 0U;
  return bad == 0;
}

Samples::Samples(const PatchedSamples& patched) noexcept
    : size_(patched.base().size()), frameBytes_(std::abs(patched.base().frameBytes())), patched_(&patched) {}

float Samples::ofPatched(std::size_t i) const noexcept {
  const auto by = static_cast<std::ptrdiff_t>(i);
  return patched_->at(static_cast<std::size_t>(frameBytes_ < 0 ? first_ - by : first_ + by));
}

void Samples::read(std::span<float> out) const noexcept {
  if (patched_ && !out.empty()) {
    const auto last = frameBytes_ < 0 ? first_ - std::ssize(out) + 1 : first_;
    patched_->read(static_cast<std::size_t>(last), out);
    if (frameBytes_ < 0) std::reverse(out.begin(), out.end());
    return;
  }
  const auto all = [&]<SampleCoding coding>() {
    const char* from = at_;
    for (auto& v : out) {
      v = decode<coding>(from);
      from += frameBytes_;
    }
  };
  switch (coding_) {
    case SampleCoding::float32: return all.template operator()<SampleCoding::float32>();
    case SampleCoding::pcm16: return all.template operator()<SampleCoding::pcm16>();
    case SampleCoding::pcm24: return all.template operator()<SampleCoding::pcm24>();
    case SampleCoding::pcm32: return all.template operator()<SampleCoding::pcm32>();
  }
}

void Samples::readAround(std::int64_t at, std::span<float> out) const noexcept {
  const auto begin = std::clamp<std::int64_t>(-at, 0, std::ssize(out));
  const auto end = std::clamp<std::int64_t>(static_cast<std::int64_t>(size_) - at, begin, std::ssize(out));
  const auto there = out.subspan(static_cast<std::size_t>(begin), static_cast<std::size_t>(end - begin));
  std::fill(out.begin(), there.begin(), 0.0F);
  if (!there.empty()) subspan(static_cast<std::size_t>(at + begin), there.size()).read(there);
  std::fill(there.end(), out.end(), 0.0F);
}

std::vector<float> Samples::copy() const {
  std::vector<float> out(size_);
  read(out);
  return out;
}

std::span<const float> Samples::in(std::span<float> room) const noexcept {
  if (plain()) return floats();
  read(room.first(size_));
  return room.first(size_);
}

std::span<const float> Samples::in(std::vector<float>& room) const {
  if (!plain()) room.resize(size_);
  return in(std::span(room));
}

}  // namespace ochron

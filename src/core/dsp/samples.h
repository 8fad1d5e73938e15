#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <span>
#include <vector>

namespace ochron {

/// How samples lie in memory: 32-bit float (IEEE 754) or whole numbers of so many bits, lowest byte first.
enum class SampleCoding : std::uint8_t { float32, pcm16, pcm24, pcm32 };

constexpr std::size_t bytesOf(SampleCoding coding) {
  constexpr std::array<std::size_t, 4> kBytes{4, 2, 3, 4};
  return kBytes[static_cast<std::size_t>(coding)];
}

/// Whether no sample is infinite or no number.
bool allFinite(std::span<const float> samples) noexcept;

class PatchedSamples;

/// One channel of sound as it lies in memory, read only: floats one after the other, one sample of every frame of a
/// mapped file, coded as it was recorded, or one that is another one's but for some stretches. Whole numbers are read
/// as shares of full scale, exactly. A view: cheap to copy, whoever owns the memory must outlive it.
class Samples {
 public:
  Samples() = default;
  Samples(std::span<const float> floats)  // NOLINT(google-explicit-constructor): floats are samples
      : at_(reinterpret_cast<const char*>(floats.data())), size_(floats.size()) {}
  Samples(const std::vector<float>& floats)  // NOLINT(google-explicit-constructor)
      : Samples(std::span<const float>(floats)) {}
  explicit Samples(const PatchedSamples& patched) noexcept;
  /// `count` samples, the first at `first`, each `frameBytes` after the one before.
  Samples(const char* first, SampleCoding coding, std::size_t frameBytes, std::size_t count)
      : at_(first), size_(count), frameBytes_(static_cast<std::ptrdiff_t>(frameBytes)), coding_(coding) {}

  std::size_t size() const noexcept { return size_; }
  bool empty() const noexcept { return size_ == 0; }

  float operator[](std::size_t i) const noexcept {
    if (patched_) return ofPatched(i);
    const char* from = at_ + static_cast<std::ptrdiff_t>(i) * frameBytes_;
    switch (coding_) {
      case SampleCoding::pcm16: return decode<SampleCoding::pcm16>(from);
      case SampleCoding::pcm24: return decode<SampleCoding::pcm24>(from);
      case SampleCoding::pcm32: return decode<SampleCoding::pcm32>(from);
      case SampleCoding::float32: break;
    }
    return decode<SampleCoding::float32>(from);
  }

  /// `count` of them from `at` on; with `step` -1 backwards.
  Samples subspan(std::size_t at, std::size_t count, std::ptrdiff_t step = 1) const noexcept {
    auto part = *this;
    const auto by = static_cast<std::ptrdiff_t>(at);
    if (patched_)
      part.first_ += frameBytes_ < 0 ? -by : by;
    else
      part.at_ += by * frameBytes_;
    part.size_ = count;
    part.frameBytes_ *= step;
    return part;
  }

  /// Fills `out` with the first of them, no more than there are.
  void read(std::span<float> out) const noexcept;
  /// Fills `out` from `at` on, which may lie anywhere: 0 where there are none.
  void readAround(std::int64_t at, std::span<float> out) const noexcept;
  std::vector<float> copy() const;
  /// From one sample to the next; below 0 when they are read backwards.
  std::ptrdiff_t frameBytes() const noexcept { return frameBytes_; }

  /// True when they are floats one after the other, as all that is kept in memory.
  bool plain() const noexcept {
    return !patched_ && coding_ == SampleCoding::float32 && frameBytes_ == kFloat && aligned();
  }
  /// The samples of what is plain().
  std::span<const float> floats() const noexcept { return {reinterpret_cast<const float*>(at_), size_}; }
  /// The samples as floats: themselves where they are plain, else a copy in `room`, which has space for all.
  std::span<const float> in(std::span<float> room) const noexcept;
  std::span<const float> in(std::vector<float>& room) const;

 private:
  static constexpr std::ptrdiff_t kFloat = sizeof(float);

  bool aligned() const noexcept { return reinterpret_cast<std::uintptr_t>(at_) % alignof(float) == 0; }

  template <SampleCoding coding>
  static float decode(const char* from) noexcept;
  float ofPatched(std::size_t i) const noexcept;

  const char* at_ = nullptr;
  std::size_t size_ = 0;
  std::ptrdiff_t frameBytes_ = kFloat;
  SampleCoding coding_ = SampleCoding::float32;
  const PatchedSamples* patched_ = nullptr;  ///< then `frameBytes_` are its base's
  std::ptrdiff_t first_ = 0;                 ///< of the patched ones
};

template <SampleCoding coding>
inline float Samples::decode(const char* from) noexcept {
  if constexpr (coding == SampleCoding::float32) {
    float v = 0;
    std::memcpy(&v, from, sizeof v);
    return v;
  } else if constexpr (coding == SampleCoding::pcm16) {
    std::int16_t v = 0;
    std::memcpy(&v, from, sizeof v);
    return static_cast<float>(v) * 0x1p-15F;
  } else if constexpr (coding == SampleCoding::pcm24) {
    std::uint16_t low = 0;
    std::memcpy(&low, from, sizeof low);
    return static_cast<float>(static_cast<std::int32_t>(static_cast<signed char>(from[2])) * 65'536 + low) * 0x1p-23F;
  } else {
    std::int32_t v = 0;
    std::memcpy(&v, from, sizeof v);
    return static_cast<float>(v) * 0x1p-31F;
  }
}

}  // namespace ochron

#pragma once

#include <span>

namespace ochron {

/// Whoever fills the device's buffers. Called on the audio thread: must not allocate, lock, wait or throw.
class AudioSource {
 public:
  virtual ~AudioSource() = default;
  /// Writes both sides, whatever was in them.
  virtual void process(std::span<float> left, std::span<float> right) noexcept = 0;
};

}  // namespace ochron

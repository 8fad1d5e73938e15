#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <cstddef>
#include <span>

namespace ochron {

/// Highest peaks since they were last asked for, from the audio thread to another one.
class Meters {
 public:
  static constexpr std::size_t kMostTracks = 256;

  void raiseTracks(std::span<const float> peaks) noexcept {
    for (std::size_t t = 0; t < peaks.size(); ++t) raise(tracks_[t], peaks[t]);
  }
  void raiseMaster(std::span<const float> left, std::span<const float> right) noexcept {
    raise(master_[0], peakOf(left));
    raise(master_[1], peakOf(right));
  }
  float takeTrack(std::size_t track) noexcept {
    return track < kMostTracks ? tracks_[track].exchange(0, std::memory_order_relaxed) : 0;
  }
  float takeMaster(int side) noexcept {
    return master_[static_cast<std::size_t>(side)].exchange(0, std::memory_order_relaxed);
  }

 private:
  static float peakOf(std::span<const float> s) noexcept {
    float p = 0;
    for (const float v : s) p = std::max(p, std::abs(v));
    return p;
  }
  static void raise(std::atomic<float>& held, float peak) noexcept {
    if (peak > held.load(std::memory_order_relaxed)) held.store(peak, std::memory_order_relaxed);
  }
  std::array<std::atomic<float>, kMostTracks> tracks_{};
  std::array<std::atomic<float>, 2> master_{};
};

}  // namespace ochron

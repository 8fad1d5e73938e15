#pragma once

#include <lv2/core/lv2.h>

#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>

namespace ochron::lv2 {

/// An effect whose ports lie in one array, in the order of its description.
template <std::size_t Ports>
class PortBoard {
 public:
  void connect(std::uint32_t port, void* place) {
    if (port < Ports) ports_[port] = static_cast<float*>(place);
  }

 protected:
  float value(std::size_t port) const { return ports_[port] ? *ports_[port] : 0.0F; }
  void tell(std::size_t port, float v) const {
    if (ports_[port]) *ports_[port] = v;
  }
  const float* in(std::size_t port) const { return ports_[port]; }
  float* out(std::size_t port) const { return ports_[port]; }

 private:
  std::array<float*, Ports> ports_{};
};

/// Controls that come to where they are set: straight over so many frames, counted from when that is seen, rounded off
/// at both ends, so that nothing clicks and the length of blocks cannot be heard.
template <std::size_t N>
class Glide {
 public:
  static constexpr std::uint32_t kFrames = 256;
  using Values = std::array<float, N>;

  /// The next goal() is where they are at once.
  void begin() { begun_ = false; }
  /// True when they are somewhere else at once.
  bool goal(const Values& values) {
    if (!begun_) {
      begun_ = true;
      now_ = straight_ = goal_ = values;
      left_ = 0;
      moves_ = false;
      return true;
    }
    if (values == goal_) return false;
    from_ = straight_;
    goal_ = values;
    left_ = kFrames;
    if (!moves_) sinceTold_ = 0;
    moves_ = true;
    return false;
  }
  /// One frame on; true at every so many frames of the way, where they are somewhere else.
  bool next(std::uint32_t every) {
    if (!moves_) return false;
    if (left_ > 0) --left_;
    const float share = static_cast<float>(left_) / kFrames;
    bool there = left_ == 0;
    for (std::size_t i = 0; i < N; ++i) {
      straight_[i] = goal_[i] + (from_[i] - goal_[i]) * share;
      now_[i] += (straight_[i] - now_[i]) * kRound;
      there = there && std::abs(straight_[i] - now_[i]) <= kNear * (1 + std::abs(straight_[i]));
    }
    if (there) now_ = goal_;
    moves_ = !there;
    return there || ++sinceTold_ % every == 0;
  }
  const Values& now() const { return now_; }

 private:
  static constexpr float kRound = 1.0F / 64;  // of the way that is left, a frame
  static constexpr float kNear = 1e-5F;

  Values from_{}, straight_{}, now_{}, goal_{};
  std::uint32_t left_ = 0;
  std::uint32_t sinceTold_ = 0;
  bool begun_ = false;
  bool moves_ = false;
};

/// The table that a host calls an effect by. `E`: constructed with a rate (Hz), has connect(), begin() and run(frames).
template <class E>
constexpr LV2_Descriptor descriptorOf(const char* uri) {
  return {uri,
          [](const LV2_Descriptor*, double rate, const char*, const LV2_Feature* const*) -> LV2_Handle {
            return new E(rate);
          },
          [](LV2_Handle e, std::uint32_t port, void* place) { static_cast<E*>(e)->connect(port, place); },
          [](LV2_Handle e) { static_cast<E*>(e)->begin(); },
          [](LV2_Handle e, std::uint32_t frames) { static_cast<E*>(e)->run(frames); },
          nullptr,
          [](LV2_Handle e) { delete static_cast<E*>(e); },
          nullptr};
}

extern const LV2_Descriptor kEqualizer;
extern const LV2_Descriptor kCompressor;
extern const LV2_Descriptor kLineUp;

}  // namespace ochron::lv2

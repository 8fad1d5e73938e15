#include "play/key_trial.h"

namespace ochron {

bool KeyTrial::follow() noexcept {
  if (tracks_ == wanted_) {
    shift_.setCents(wantedCents_);
    return false;
  }
  shift_.setCents(0);
  if (tracks_.any() && !shift_.plain()) return false;
  tracks_ = wanted_;
  shift_.restart();
  return true;
}

void KeyTrial::settle() noexcept {
  tracks_ = wanted_;
  shift_.restart();
}

std::array<std::span<float>, 2> KeyTrial::hear(std::size_t frames, GrainShift::Source& source) noexcept {
  const std::array sides{std::span(left_).first(frames), std::span(right_).first(frames)};
  shift_.process(sides[0], sides[1], source);
  return sides;
}

}  // namespace ochron

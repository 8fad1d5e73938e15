#pragma once

#include <vector>

#include "dsp/samples.h"

namespace ochron {

/// One channel of sound that is another one's but for some stretches. Views: whoever owns the memory of all of them
/// must outlive it, and it must outlive the Samples that are made of it.
class PatchedSamples {
 public:
  struct Patch {
    std::size_t at = 0;
    Samples sound;

    std::size_t end() const noexcept { return at + sound.size(); }
  };
  /// `patches`: in order, none over another, all within `base`.
  PatchedSamples(const Samples& base, std::vector<Patch> patches);

  const Samples& base() const noexcept { return base_; }
  float at(std::size_t i) const noexcept;
  /// Fills `out` from a sample on; all of it lies within.
  void read(std::size_t from, std::span<float> out) const noexcept;

 private:
  std::vector<Patch>::const_iterator firstEndingBehind(std::size_t i) const noexcept;

  Samples base_;
  std::vector<Patch> patches_;
};

}  // namespace ochron

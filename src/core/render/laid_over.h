#pragma once

#include <cstdint>
#include <deque>
#include <functional>
#include <span>
#include <vector>

#include "media/decoded.h"

namespace ochron {

/// What is laid over one channel of a recording, piece after piece, and what comes of it as patches.
class LaidOver {
 public:
  /// Puts a piece into a copy of the recording from frame `from` on (`raw`: the recording there).
  using Lay = std::function<void(std::int64_t from, std::span<const float> raw, std::span<float> to)>;

  explicit LaidOver(const Samples& recording) : recording_(recording) {}
  /// Sound as it lies, from a frame on, which may lie before the recording; only what differs from it counts.
  void add(std::int64_t at, const Samples& sound);
  /// Anything else, within some frames.
  void add(std::int64_t begin, std::int64_t end, Lay lay);
  /// Patches in order, none over another: pieces by themselves are what was added, what overlaps is worked out in
  /// `owned`, in the order in which it was added.
  std::vector<PatchedSamples::Patch> patches(std::deque<std::vector<float>>& owned) const;

 private:
  struct Piece {
    std::int64_t begin = 0;
    std::int64_t end = 0;
    Samples sound = {};  ///< from `begin` on; none: `lay` says
    Lay lay = {};
  };
  void put(const Piece& piece, std::int64_t from, std::span<const float> raw, std::span<float> to) const;

  Samples recording_;
  std::vector<Piece> pieces_;
};

}  // namespace ochron

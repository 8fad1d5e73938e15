#pragma once

#include <array>
#include <string_view>

namespace ochron {

/// How a fade runs: straight (bent by a bend parameter), or smooth at both ends.
enum class FadeShape { line, sCurve };

/// What runs up or down along a fade: the gain, or the speed (and with it the pitch) as on a tape reel.
enum class FadeKind { gain, tape };

enum class CrossfadeLaw {
  equalGain,   ///< gains add to 1: for material that is the same on both sides
  equalPower,  ///< squares add to 1: for unrelated material
  matched,     ///< gains from the measured likeness of both sides, so that the level neither dips nor bumps
};

/// How the place before a moved hit was closed.
enum class SeamFill {
  none,          ///< both pieces lie as they were recorded, or the user cut here
  continuation,  ///< pieces moved apart; the earlier one's own sound goes on until the joint
  shortened,     ///< pieces moved together; the earlier one ends sooner
  stretched,     ///< the earlier piece's sustain is stretched over the gap
  faded,         ///< no sound to fill the gap with: it fades out and in
};
inline constexpr std::array<std::string_view, 5> kSeamFillNames{"none", "continuation", "shortened", "stretched",
                                                                "faded"};

}  // namespace ochron

#pragma once

#include <array>
#include <string_view>

namespace ochron {

/// How a fade runs: straight (bent by a bend parameter), or smooth at both ends.
enum class FadeShape { line, sCurve };
inline constexpr std::array<std::string_view, 2> kFadeShapeNames{"line", "s-curve"};

/// What runs up or down along a fade: the gain, or the speed (and with it the pitch) as on a tape reel.
enum class FadeKind { gain, tape };
inline constexpr std::array<std::string_view, 2> kFadeKindNames{"gain", "tape"};

enum class CrossfadeLaw {
  equalGain,   ///< gains add to 1: for material that is the same on both sides
  equalPower,  ///< squares add to 1: for unrelated material
  matched,     ///< gains from the measured likeness of both sides, so that the level neither dips nor bumps
};
inline constexpr std::array<std::string_view, 3> kCrossfadeLawNames{"equal gain", "equal power", "matched"};

}  // namespace ochron

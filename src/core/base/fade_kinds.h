#pragma once

namespace ochron {

/// How a fade runs: straight (bent by a bend parameter), or smooth at both ends.
enum class FadeShape { line, sCurve };

enum class CrossfadeLaw {
  equalGain,   ///< gains add to 1: for material that is the same on both sides
  equalPower,  ///< squares add to 1: for unrelated material
  matched,     ///< gains from the measured likeness of both sides, so that the level neither dips nor bumps
};

}  // namespace ochron

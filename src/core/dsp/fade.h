#pragma once

#include <span>

#include "base/fade_kinds.h"

namespace ochron {

struct GainPair {
  float out = 1;
  float in = 0;
};

/// Gain at x (0 to 1) of a fade-in. `bend` -1 to 1: below 0 rises late, above 0 rises early.
float fadeGain(FadeShape shape, double bend, double x);

/// Gains of both sides at x (0 to 1). For `matched`, g1^2 + g2^2 + 2 r g1 g2 = 1 with r the normalised correlation of
/// the overlap (-1 to 1, limited to -0.5 so that the gains stay below +3 dB). `bias` -1 to 1 moves the meeting point
/// towards the start (-1) or the end (1).
GainPair crossfadeGains(CrossfadeLaw law, FadeShape shape, double bias, double r, double x);

/// Normalised correlation of two stretches of the same length, -1 to 1. 0 when either is silent.
double correlation(std::span<const float> a, std::span<const float> b);

}  // namespace ochron

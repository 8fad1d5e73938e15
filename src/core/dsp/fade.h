#pragma once

#include <cstddef>
#include <span>

#include "terms/fade_kinds.h"

namespace ochron {

struct GainPair {
  float out = 1;
  float in = 0;
};

/// Gain at x (0 to 1) of a fade-in. `bend` -1 to 1: below 0 rises late, above 0 rises early.
float fadeGain(FadeShape shape, double bend, double x);

/// Gains of both sides at x (0 to 1). For `matched`, g1^2 + g2^2 + 2 r g1 g2 = 1 with r the likeness of the overlap (-1
/// to 1, limited to -0.75 so that no gain exceeds +3 dB). `bias` -1 to 1 moves the meeting point
/// towards the start (-1) or the end (1).
GainPair crossfadeGains(CrossfadeLaw law, FadeShape shape, double bias, double r, double x);

/// The straight gain of the later side at every frame of a crossfade of so many frames. Valid until the next call on
/// the same thread; allocates, so not for the audio thread.
std::span<const float> laterShares(FadeShape shape, double bias, std::size_t length);
/// Gains of both sides where the later side's straight gain is `share`.
GainPair gainsForShare(CrossfadeLaw law, double r, double share);

/// The likeness r that makes a matched crossfade from `out` to `in` (of the same length) come out as loud as what it
/// joins: sum g^2 ((1-y) a + y b)^2 = sum (1-y) a^2 + y b^2, y the straight gain of the later side and g the scale that
/// crossfadeGains applies for r. Found by Newton's rule. It is the correlation when both sides are steady and equally
/// loud. 1 when both are silent.
double crossfadeLikeness(std::span<const float> out, std::span<const float> in, FadeShape shape, double bias);

/// Brings what lies in `to` over into `from`, of the same length, as loud as what it joins. The shares run smoothly at
/// both ends: straight ones bend a low tone so sharply there that it is heard.
void crossInto(std::span<float> to, std::span<const float> from);

/// Normalised correlation of two stretches of the same length, -1 to 1. 0 when either is silent.
double correlation(std::span<const float> a, std::span<const float> b);

}  // namespace ochron

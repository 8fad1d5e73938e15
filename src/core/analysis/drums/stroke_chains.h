#pragma once

#include <vector>

#include "analysis/drums/mic_strokes.h"

namespace ochron {

inline constexpr double kOneHitSeconds = 0.025;  ///< strokes nearer than this to the one before are one hit

/// Strokes that follow each other so closely, in order of time.
using StrokeChain = std::vector<const MicStroke*>;

/// `strokes` by time. Two strokes of a kick in its mic never are one hit when they lie 15 ms apart.
std::vector<StrokeChain> chainsOf(const std::vector<const MicStroke*>& strokes, int rate);

/// A chain's strokes on mics of their own, each but once: another mic of the same drum hears the same stroke; a second
/// one on the same mic is a flam.
StrokeChain closeOf(const StrokeChain& chain, int rate);

/// Whether two mics may hear one stroke: an overhead hears a close mic's within 12 ms.
bool mayBeOne(const MicStroke& a, const MicStroke& b, int rate);

}  // namespace ochron

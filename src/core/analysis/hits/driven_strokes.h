#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/hits/heard_stroke.h"
#include "analysis/levels/band_rises.h"
#include "analysis/pitch/cycle_break.h"

namespace ochron {

/// A place where new sound sets in, with what tells there.
struct NewSound {
  std::int64_t at = 0;  ///< frame
  double fresh = 0;     ///< share of what is new
  std::optional<CycleBreak> broken;
};

/// Whether strings are driven so hard (distorted guitars) that their level hardly moves while picks and chugs break
/// through the whole spectrum: their strongest rises stand far over those of bows and voices.
bool isDriven(const std::vector<BroadRise>& rises);

/// Strokes of such strings: where new sound sets in, or all of the spectrum rises, placed by the greatest such rise
/// near it.
std::vector<HeardStroke> findDrivenStrokes(const std::vector<NewSound>& sounds, const std::vector<BroadRise>& rises,
                                           const MicLevel& level);

}  // namespace ochron

#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "analysis/cycle_break.h"
#include "analysis/mic_level.h"
#include "base/hop.h"

namespace ochron {

struct SoftStroke;

/// A rise over the whole spectrum.
struct BroadRise {
  std::int64_t at = 0;  ///< frame
  double rise = 0;      ///< dB, the mean over the bands (bandRises)
};

/// The peaks of the rises of a recording, of 1 dB and more, 15 ms apart and more.
std::vector<BroadRise> broadRises(std::span<const float> samples, const MicLevel& level, Progress& progress);

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
std::vector<SoftStroke> findDrivenStrokes(const std::vector<NewSound>& sounds, const std::vector<BroadRise>& rises,
                                          const MicLevel& level);

}  // namespace ochron

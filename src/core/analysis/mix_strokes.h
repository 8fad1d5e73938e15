#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "analysis/attacks.h"
#include "analysis/mic_level.h"
#include "base/progress.h"

namespace ochron {

/// A stroke of a drum in a whole band.
struct MixStroke {
  std::int64_t at = 0;  ///< frame of the recording
  double level = 0;     ///< against the loud strokes of the mic
  double sure = 0;      ///< by how far all bands rise: above 0 it counts, up to 1
};

/// Whether there are drums in what sounds on: what is above 9 kHz dies away after the attacks that are surely such,
/// though held notes below fill the gaps. `sure` says of each attack how surely it is one. From bands, whole songs and
/// kits under guitars (0.11 to 0.35 of it is left after 120 to 200 ms) and from guitars, basses and strings alone (0.5
/// and more).
bool drumsIn(const BandEnergy& energy, const std::vector<Attack>& attacks, const std::vector<double>& sure);

/// The strokes of a mix, sorted: rises over all of its spectrum against 10 to 20 ms before, each band against its own
/// loud level, high ones first, as their noise moves least. Held and swelling notes rise in few bands. Each is placed
/// where its clearest band rises.
std::vector<MixStroke> findMixStrokes(std::span<const float> samples, const MicLevel& level, const BandEnergy& energy,
                                      Progress& progress, double from, double to);

}  // namespace ochron

#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "analysis/hits/attacks.h"
#include "analysis/hits/heard_stroke.h"
#include "analysis/levels/flux.h"
#include "analysis/levels/mic_level.h"
#include "base/progress.h"

namespace ochron {

/// Whether there are drums in what sounds on: what is above 9 kHz dies away after the attacks that are surely such,
/// though held notes below fill the gaps. `sure` says of each attack how surely it is one. From bands, whole songs and
/// kits under guitars (0.11 to 0.35 of it is left after 120 to 200 ms) and from guitars, basses and strings alone (0.5
/// and more).
bool drumsIn(const BandEnergy& energy, const std::vector<Attack>& attacks, const std::vector<double>& sure);

/// Where the band that rises most clearly near a step of the energies does so, a step.
std::int64_t placeByBands(const BandEnergy& energy, std::int64_t near);

/// The strokes of a mix, sorted: rises over all of its spectrum against 10 to 20 ms before, each band against its own
/// loud level, high ones first, as their noise moves least. Held and swelling notes rise in few bands. Each is placed
/// where its clearest band rises; how surely it is one, by how far all bands rise.
std::vector<HeardStroke> findMixStrokes(std::span<const float> samples, const MicLevel& level, const BandEnergy& energy,
                                        Progress& progress, ProgressPart part);

}  // namespace ochron

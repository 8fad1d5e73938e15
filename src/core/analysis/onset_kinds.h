#pragma once

#include <cstdint>
#include <span>

#include "analysis/flux.h"
#include "base/drum_class.h"

namespace ochron {

/// How an attack's new energy spreads over the bands: square roots of magnitudes, unit length.
struct BandShape {
  BandFrame bands{};
};

/// From the spectra before and right after (twice). `rise` receives how much of what is heard is new, 0 to 1.
BandShape shapeOfAttack(const BandFrame& before, const BandFrame& after, const BandFrame& body, double& rise);

/// Cosine of two shapes, 0 to 1.
double alike(const BandShape& a, const BandShape& b);

struct DrumGuess {
  DrumClass drum = DrumClass::other;
  double certainty = 0;  ///< 0 to 1
  double fresh = 0;      ///< share of the power that was not there before, 0 to 1
};

/// The drum that an attack at `at` sounds like: where its new power lies in the first 43 ms, and how it rings on.
DrumGuess guessDrum(std::span<const float> samples, std::int64_t at, int rate);

}  // namespace ochron

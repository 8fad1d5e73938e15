#pragma once

#include "song/timing.h"
#include "time/tempo_map.h"

namespace ochron {

/// How late a plan's groove has the hits of a grid line, scaled by its amount, in ms; 0 without a groove.
double grooveMs(const TimingSettings& settings, const TempoMap& map, const GridLine& line);

/// The scatter that a plan gives to a drum's hit on a grid line, in ms, late positive: drawn from what the groove's
/// player did at that place of the bar (or, where that is little, anywhere in it), so that early and late come in the
/// proportions found. The same for the same line, drum and `scatterDraw`; 0 when no scatter is given.
double givenScatterMs(const TimingSettings& settings, const TempoMap& map, const GridLine& line, DrumClass drum);

/// Keeps what tells a player's scatter at one place: the deviations from their mean, sorted, at most 64 of them
/// evenly over the whole.
std::vector<double> scatterProfile(std::vector<double> deviationsMs);

/// A groove whose offsets and loudnesses are sums over `count` strokes at each place becomes their means, its
/// deviations what is kept of them.
void average(Groove& groove, const std::vector<int>& count);

}  // namespace ochron

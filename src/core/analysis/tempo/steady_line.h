#pragma once

#include <optional>
#include <vector>

#include "analysis/levels/band_energy.h"
#include "analysis/tempo/onset_curves.h"

namespace ochron {

/// Beats brought to where their onsets are (to a few ms), along a smooth curve: a beat without an onset, or with one
/// off its place, stays on the curve. Seconds.
std::vector<double> refinedBeats(const OnsetCurves& curves, const std::vector<double>& beats);

/// Seconds a beat, of the straight line through the beats [from, to), two and more.
double secondsABeat(const std::vector<double>& beats, std::size_t from, std::size_t to);

/// A recording of one tempo: beat n lies at start + n * 60 / bpm.
struct SteadyLine {
  double bpm = 0;
  double start = 0;     ///< seconds
  double spreadMs = 0;  ///< of the onsets around it
};

/// The robust straight line through a recording's onsets over sixteenths of its beats (Cauchy weights); none when its
/// beats wander. `energy` and `curves` are the recording's: each onset lies where its clearest band rises, so that in a
/// dense mix the beats are the drums'. With `bpm` known, only where the line begins is looked for.
std::optional<SteadyLine> steadyLine(const BandEnergy& energy, const OnsetCurves& curves,
                                     const std::vector<double>& beats, std::optional<double> bpm = {});

}  // namespace ochron

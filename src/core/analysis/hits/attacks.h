#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "analysis/levels/band_energy.h"
#include "base/progress.h"

namespace ochron {

/// Numbers of the search for attacks. All found on multi-mic takes with truth, with the kit that was scored held back;
/// `docs/figures.md` gives the figures and the command.
struct AttackSettings {
  double leastNovelty = 0.4;   ///< mean rise a band, natural log units, of the weakest attack that is looked at
  double peakReachMs = 6;      ///< an attack's novelty is the highest within this on either side
  double placesAgreeMs = 1.5;  ///< so near to each other the waveform's own place is kept over that of the residual
  double oneAttackMs = 4;      ///< of two nearer than this the stronger stays
};

/// A sudden rise on one mic, with what tells a stroke from ringing and bleed. Levels in dB, windows relative to `at`.
struct Attack {
  std::int64_t at = 0;  ///< frame of the recording where it begins
  double novelty = 0;   ///< mean rise a band, natural log units
  double rise = 0;      ///< the most any band's first 5 ms stand over the loudest 5 ms of the 41 before
  double meanRise = 0;  ///< mean over the bands of the rise from the 10 ms before to the 10 ms after
  double bodyRise = 0;  ///< as `rise`, of 250 to 1500 Hz alone
  std::array<double, BandEnergy::kBands>
      net{};  ///< what the 10 ms after add to the 10 ms before, under the band's loud level
};

/// All attacks of one mic down to the noise, sorted. Novelty over seven bands alike (so that a hat over a ringing tom
/// is seen); placed where the variance of the waveform changes, or, where a low ringing hides that, of the residual of
/// a linear prediction from the sound before.
std::vector<Attack> findAttacks(std::span<const float> samples, int rate, const BandEnergy& energy,
                                const AttackSettings& settings, Progress& progress);

}  // namespace ochron
